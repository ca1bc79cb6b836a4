import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps } from "./screens";

export const kind = "bypass";
export const word = "Bypass";

export function Body({ step, recording, next, help, say }: BodyProps<"bypass">) {
  const opens = step.act === "open";
  const record = async () => {
    await recording.record(opens ? "bypass_bridged" : "bypass_restored", { step: step.id });
    next();
  };
  return (
    <>
      {opens ? (
        <p className="px-4 pb-4">
          <b>{step.what}</b>: {step.why}. It stands in the ledger until it is closed; nobody signs off before.
        </p>
      ) : null}
      <Act help={help}>
        <Button large look="act" onClick={() => void record()}>
          {say(step.button) || (opens ? "Open the bypass" : "Close the bypass")}
        </Button>
      </Act>
    </>
  );
}
