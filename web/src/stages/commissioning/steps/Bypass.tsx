import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps } from "./screens";

export const kind = "bypass";
export const word = () => t`Bypass`;

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
          <Trans>
            <b>{step.what}</b>: {step.why}. It stays in the list until it is closed. Nobody signs off before that.
          </Trans>
        </p>
      ) : null}
      <Act help={help}>
        <Button large look="act" onClick={() => void record()}>
          {say(step.button) || (opens ? t`Record that the bypass is open` : t`Close bypass`)}
        </Button>
      </Act>
    </>
  );
}
