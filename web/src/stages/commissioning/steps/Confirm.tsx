import { t } from "@lingui/core/macro";
import { useJobStore } from "../../../job/context";
import { at } from "../../../job/document";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps } from "./screens";

export const kind = "confirm";
export const word = () => t`Confirm`;

export function Body({ step, recording, next, help, say }: BodyProps<"confirm">) {
  const store = useJobStore();
  const confirm = async () => {
    await recording.record("step_confirmed", { step: step.id });
    if (step.answers && at(store.get().document, step.answers) !== "yes") store.edit(step.answers, "yes");
    next();
  };
  return (
    <Act help={help}>
      <Button large look="act" onClick={() => void confirm()}>
        {say(step.button) || t`Done`}
      </Button>
    </Act>
  );
}
