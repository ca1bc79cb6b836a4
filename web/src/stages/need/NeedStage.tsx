import { useJob, useJobStore, useStage } from "../../job/context";
import { type Document, freshId, listAt, textAt } from "../../job/document";
import { ComesTo, StageColumns } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { JobField } from "../../ui/JobField";

const SPACE_FIELDS = ["name", "use", "length_m", "width_m", "mean_height_m", "inside_c", "air_changes_per_h", "insulation_class", "heat_store", "warm_up_s"];

/** What must be warmed: job, site, spaces and their skins. */
export function NeedStage() {
  const store = useJobStore();
  const { document } = useJob();
  const spaces = listAt(document, "need.spaces");
  const addSpace = () => {
    const id = freshId("space", spaces.map((s) => textAt(s, "id")));
    store.edit("need.spaces", [...spaces, { id, name: `Space ${spaces.length + 1}`, skin: [{ id: "part-1", name: "Walls" }] }]);
  };
  return (
    <StageColumns
      given={
        <>
          <JobField path="name" />
          <JobField path="note" />
          {["place", "altitude_m", "outside_lowest_c", "ground_c"].map((name) => (
            <JobField key={name} path={`site.${name}`} />
          ))}
          {spaces.length === 0 ? <Message title="No space yet">Add the first space that must be warmed.</Message> : null}
          {spaces.map((space, n) => (
            <Space key={textAt(space, "id")} space={space} at={`need.spaces[${n}]`} remove={() => store.edit("need.spaces", spaces.filter((s) => s !== space))} />
          ))}
          <div className="pt-3">
            <Button onClick={addSpace}>Add a space</Button>
          </div>
        </>
      }
      comes={<ComesTo stage={useStage("need")} />}
    />
  );
}

function Space({ space, at, remove }: { space: Document; at: string; remove: () => void }) {
  const store = useJobStore();
  const parts = listAt(space, "skin");
  const put = (next: Document[]) => store.edit(`${at}.skin`, next);
  const name = textAt(space, "name") || "Space";
  return (
    <section id={textAt(space, "id")} aria-label={name} className="mt-4 border-t-[1.5px] border-frame pt-2">
      <div className="flex items-center justify-between">
        <h3 className="text-base font-bold">{name}</h3>
        <Button look="quiet" onClick={remove}>
          Remove {name}
        </Button>
      </div>
      {SPACE_FIELDS.map((f) => (
        <JobField key={f} path={`${at}.${f}`} of={name} />
      ))}
      <h4 className="mt-3 font-semibold">Skin of {name}</h4>
      <ul>
        {parts.map((part, n) => {
          const here = `${at}.skin[${n}]`;
          const of = textAt(part, "name") || `Part ${n + 1}`;
          return (
            <li key={textAt(part, "id")} className="grid grid-cols-[1fr_1.4fr_5.5rem] gap-1.5 border-b border-hair py-1.5">
              <JobField layout="bare" of={of} path={`${here}.name`} />
              <JobField layout="bare" of={of} path={`${here}.skin`} />
              <JobField layout="bare" of={of} path={`${here}.area_m2`} />
              <JobField layout="bare" of={of} path={`${here}.against`} />
              {textAt(part, "skin") === "own" ? <JobField layout="bare" of={of} path={`${here}.u_w_per_m2k`} /> : <span />}
              <Button look="quiet" onClick={() => put(parts.filter((p) => p !== part))}>
                Remove<span className="sr-only"> {of}</span>
              </Button>
            </li>
          );
        })}
      </ul>
      <div className="pt-2">
        <Button onClick={() => put([...parts, { id: freshId("part", parts.map((p) => textAt(p, "id"))), name: `Part ${parts.length + 1}`, against: "outside" }])}>
          Add a skin part<span className="sr-only"> to {name}</span>
        </Button>
      </div>
    </section>
  );
}
