import { useQuantities, useSurroundings } from "../../app/context";
import { useJob, useJobStore, useStage } from "../../job/context";
import { type Document, type Json, freshId, listAt, textAt } from "../../job/document";
import { ComesTo, StageColumns } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { JobField } from "../../ui/JobField";

const RULED_OUT: Record<string, string> = {
  fuel_not_allowed: "may not burn this fuel",
  above_altitude_limit: "not allowed at this altitude",
  make_up_air_takes_all: "its fresh air takes all it makes",
  too_many_units: "more than four would be needed",
};

interface Candidate {
  model: string;
  name: string;
  count: number;
  input_w: number;
  output_w: number;
  share: number | null;
  ruled_out: string | null;
}

/** The changes that put so many of a heater into the job, each with an inlet in the fuel path. */
export function choose(document: Document, model: string, count: number): { path: string; value: Json }[] {
  const heaters = Array.from({ length: count }, (_, n) => ({ id: `heater-${n + 1}`, model }));
  const parts = listAt(document, "supply.parts");
  const inlets = parts.filter((p) => textAt(p, "kind") === "appliance");
  const hangsOn = textAt(inlets[0] ?? {}, "after") || textAt(parts.at(-1) ?? {}, "id");
  const kept = parts.filter((p) => textAt(p, "kind") !== "appliance" || heaters.some((h) => h.id === textAt(p, "heater")));
  const served = new Set(kept.map((p) => textAt(p, "heater")));
  const ids = kept.map((p) => textAt(p, "id"));
  const added = heaters
    .filter((h) => !served.has(h.id))
    .map((h) => {
      const id = freshId("inlet", ids);
      ids.push(id);
      return { kind: "appliance", id, name: h.id.replace("heater-", "Heater "), after: hangsOn, heater: h.id };
    });
  return [
    { path: "equipment.heaters", value: heaters },
    { path: "supply.parts", value: [...kept, ...added] },
  ];
}

/** Which heaters meet the need. */
export function EquipmentStage() {
  const store = useJobStore();
  const { document } = useJob();
  const stage = useStage("equipment");
  const { vocabulary } = useSurroundings();
  const heaters = listAt(document, "equipment.heaters");
  const models = (vocabulary.catalogue["heaters"] ?? []).map((h) => ({ value: String(h["id"]), reads: String(h["name"]) }));
  return (
    <StageColumns
      given={
        <>
          {heaters.length === 0 ? <Message title="No heater chosen yet">Take one from the list at the right, or add one by name.</Message> : null}
          {heaters.map((heater, n) => (
            <div key={textAt(heater, "id")} id={textAt(heater, "id")} className="grid grid-cols-[1fr_auto] items-start gap-2">
              <JobField path={`equipment.heaters[${n}].model`} label={`Heater ${n + 1}`} options={models} />
              <Button look="quiet" onClick={() => store.edit("equipment.heaters", heaters.filter((h) => h !== heater))}>
                Remove<span className="sr-only"> heater {n + 1}</span>
              </Button>
            </div>
          ))}
          <div className="pt-3">
            <Button onClick={() => store.edit("equipment.heaters", [...heaters, { id: freshId("heater", heaters.map((h) => textAt(h, "id"))), model: "" }])}>Add a heater</Button>
          </div>
        </>
      }
      comes={
        <ComesTo stage={stage}>
          <Candidates rows={(stage?.tables["candidates"] ?? []) as unknown as Candidate[]} take={(c) => store.editAll(choose(document, c.model, c.count))} />
        </ComesTo>
      }
    />
  );
}

function Candidates({ rows, take }: { rows: Candidate[]; take: (row: Candidate) => void }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <table className="mb-4 w-full border-t-[1.5px] border-frame text-left">
      <caption className="pb-1 text-left text-small text-muted">Heaters that meet the need, least oversize first</caption>
      <thead className="text-small text-muted">
        <tr>
          <th scope="col" className="font-normal">Heater</th>
          <th scope="col" className="text-right font-normal">Useful output</th>
          <th scope="col" className="text-right font-normal">Of the need</th>
          <th scope="col" className="text-right font-normal">Fuel in</th>
          <th scope="col"><span className="sr-only">Take</span></th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.model} className={`border-t border-hair ${r.ruled_out ? "text-muted" : ""}`}>
            <th scope="row" className="py-1.5 font-medium">
              {r.count > 1 && !r.ruled_out ? `${r.count} × ` : ""}
              {r.name}
            </th>
            <td className="text-right">{r.ruled_out ? "" : q.show(r.output_w, "heat_flow")}</td>
            <td className="text-right">{r.ruled_out || r.share === null ? "" : q.show(r.share, "fraction")}</td>
            <td className="text-right">{r.ruled_out ? "" : q.show(r.input_w, "heat_flow")}</td>
            <td className="pl-3 text-right">
              {r.ruled_out ? (
                <span className="text-small">no: {RULED_OUT[r.ruled_out] ?? r.ruled_out}</span>
              ) : (
                <Button look="quiet" onClick={() => take(r)}>
                  Take<span className="sr-only"> {r.name}</span>
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
