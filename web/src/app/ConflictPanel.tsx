import { useJob, useJobStore } from "../job/context";
import { at, differences } from "../job/document";
import { specAt } from "../job/schema";
import { Button } from "../ui/controls";
import { writeTyped } from "../ui/JobField";
import { useQuantities, useSurroundings } from "./context";

/** Two versions of one job: what differs, and which to keep. Neither is lost until one is chosen. */
export function ConflictPanel() {
  const store = useJobStore();
  const { document, conflict } = useJob();
  const { vocabulary } = useSurroundings();
  const q = useQuantities();
  if (!conflict) return null;
  const rows = differences(document, conflict.document);
  return (
    <section role="alert" aria-label="Two versions" className="border-b-[1.5px] border-frame bg-ember-wash px-5 py-3">
      <h2 className="text-base font-bold">{conflict.author} saved this job in between</h2>
      <p>Nothing is lost: both versions are here. The older state stays among the revisions.</p>
      <table className="my-2 w-full text-left text-small">
        <thead>
          <tr>
            <th scope="col">Where</th>
            <th scope="col">Yours</th>
            <th scope="col">Theirs</th>
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, 40).map((path) => {
            const parent = path.replace(/\.[^.]*$/, "");
            const spec = specAt(vocabulary.job_schema, path, at(document, `${parent}.kind`));
            const text = (value: ReturnType<typeof at>) => (spec && (spec.kind || typeof value !== "object") ? writeTyped(value, spec, q) || "—" : value === undefined ? "not there" : "changed");
            return (
              <tr key={path} className="border-t border-rule">
                <th scope="row" className="font-normal">
                  {spec?.title || path} <span className="text-muted">{path}</span>
                </th>
                <td>{text(at(document, path))}</td>
                <td>{text(at(conflict.document, path))}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="flex gap-3">
        <Button look="act" onClick={() => store.settle("mine")}>
          Keep mine
        </Button>
        <Button onClick={() => store.settle("theirs")}>Take theirs</Button>
      </div>
    </section>
  );
}
