import { t } from "@lingui/core/macro";
import { useAsked, useStage } from "../../job/context";
import { Parts } from "../../ui/Parts";
import { Heat } from "./Heat";
import { Power } from "./Power";

/** What must be warmed, what must be powered. */
export function NeedStage() {
  const asked = useAsked();
  return (
    <Parts
      stage={useStage("need")}
      parts={[
        { key: "heat", word: t`Heat`, matters: asked.heat, page: <Heat /> },
        { key: "power", word: t`Power`, matters: asked.power, page: <Power alone={!asked.heat} /> },
      ]}
    />
  );
}
