import { t } from "@lingui/core/macro";
import { useAsked, useStage } from "../../job/context";
import { Parts } from "../../ui/Parts";
import { Generators } from "./Generators";
import { Heaters } from "./Heaters";
import { Sheets } from "./Sheets";

/** Which heaters and generators meet the need. */
export function EquipmentStage() {
  const asked = useAsked();
  return (
    <Parts
      stage={useStage("equipment")}
      parts={[
        { key: "heaters", word: t`Heaters`, matters: asked.heat, page: <Heaters /> },
        {
          key: "generators",
          word: t`Generators`,
          matters: asked.power,
          page: <Generators />,
        },
        { key: "sheets", word: t`Our own machines`, page: <Sheets /> },
      ]}
    />
  );
}
