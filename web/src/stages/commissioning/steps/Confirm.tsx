import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps } from "./screens";

export const kind = "confirm";
export const word = "Confirm";

export function Body({ step, recording, next, help }: BodyProps<"confirm">) {
  const confirm = async () => {
    await recording.record("step_confirmed", { step: step.id });
    next();
  };
  return (
    <Act help={help}>
      <Button large look="act" onClick={() => void confirm()}>
        {step.button || "Done"}
      </Button>
    </Act>
  );
}
