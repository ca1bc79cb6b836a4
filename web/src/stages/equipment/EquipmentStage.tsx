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
        { key: "heaters", word: "Heaters", matters: asked.heat, page: <Heaters /> },
        {
          key: "generators",
          word: "Generators",
          matters: asked.power,
          page: <Generators />,
        },
        { key: "sheets", word: "Our own machines", page: <Sheets /> },
      ]}
    />
  );
}
