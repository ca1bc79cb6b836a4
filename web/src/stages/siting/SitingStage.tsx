import { useStage } from "../../job/context";
import { ComesTo, StageColumns } from "../../ui/answers";
import { JobField } from "../../ui/JobField";

/** Where the heaters stand, and the cord that feeds them. */
export function SitingStage() {
  return (
    <StageColumns
      given={
        <>
          {["position", "top_m", "front_m", "sides_m", "rear_m", "vessels_to_canvas_m"].map((name) => (
            <JobField key={name} path={`siting.${name}`} />
          ))}
          <h3 id="cord" className="mt-4 border-t-[1.5px] border-frame pt-2 text-base font-bold">
            Cord to the heater’s fan
          </h3>
          {["source_v", "conductor", "length_m"].map((name) => (
            <JobField key={name} path={`siting.cord.${name}`} />
          ))}
        </>
      }
      comes={<ComesTo stage={useStage("siting")} />}
    />
  );
}
