import { useEntries, useJob, useStage } from "../../job/context";
import { listAt, textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { More } from "../../ui/More";

const PLACE = ["position", "top_m", "front_m", "sides_m", "rear_m"];
const CORD = ["source_v", "conductor", "length_m"];
const OWN_CORD = [...CORD, "battery_j"];

/** Where the machines stand, and the cord that feeds each of them. */
export function SitingStage() {
  const { document } = useJob();
  return (
    <StagePart
      given={
        <>
          {PLACE.map((name) => (
            <JobField key={name} path={`siting.usual.${name}`} />
          ))}
          {listAt(document, "supplies").map((s, n) =>
            textAt(s, "fuel") === "natural_gas" ? null : <JobField key={textAt(s, "id")} path={`supplies[${n}].storage.to_canvas_m`} label={`Vessels to canvas or wall${textAt(s, "name") ? `: ${textAt(s, "name")}` : ""}`} />,
          )}
          <h3 id="cord" className="mt-4 border-t-[1.5px] border-frame pt-2 text-base font-bold">
            Cord to a heater’s fan
          </h3>
          {CORD.map((name) => (
            <JobField key={name} path={`siting.usual.cord.${name}`} />
          ))}
          <More what="battery" paths={["siting.usual.cord.battery_j"]}>
            <JobField path="siting.usual.cord.battery_j" />
          </More>
          <Others />
        </>
      }
      stage={useStage("siting")}
    />
  );
}

/** Machines that stand otherwise than the rest: what is left empty is as at all of them. */
function Others() {
  const { plan } = useJob();
  const { all, add, remove } = useEntries("siting.places", "");
  const nameOf = (id: string) => plan?.machines.find((m) => m.id === id)?.name ?? id;
  const free = (plan?.machines ?? []).filter((m) => !all.some((p) => textAt(p, "id") === m.id));
  return (
    <>
      {all.map((place, n) => {
        const id = textAt(place, "id");
        const of = nameOf(id);
        return (
          <section key={id} id={id} aria-label={of} className="mt-4 border-t-[1.5px] border-frame pt-2">
            <h3 className="flex items-baseline justify-between text-base font-bold">
              {of}, where it differs
              <Button look="quiet" onClick={() => remove(place)}>
                Stands like the others<span className="sr-only"> {of}</span>
              </Button>
            </h3>
            {[...PLACE, ...OWN_CORD.map((c) => `cord.${c}`)].map((name) => (
              <JobField key={name} of={of} path={`siting.places[${n}].${name}`} none="as the others" />
            ))}
          </section>
        );
      })}
      {(plan?.machines.length ?? 0) > 1 && free.length > 0 ? (
        <div className="flex flex-wrap gap-3 pt-4">
          {free.map((m) => (
            <Button key={m.id} look="quiet" onClick={() => add({ id: m.id })}>
              {m.name} ({m.id}) stands otherwise
            </Button>
          ))}
        </div>
      ) : null}
    </>
  );
}
