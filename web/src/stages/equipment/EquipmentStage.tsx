import { useAsked, useStage } from "../../job/context";
import { Parts } from "../../ui/Parts";
import { Generators } from "./Generators";
import { Heaters } from "./Heaters";
import { Sheets } from "./Sheets";

const ofGenerators = (name: string) => /^(generator\.|equipment\.(generator|natural_gas)\.)/.test(name);
const ofSheets = (name: string) => name.startsWith("equipment.sheet.");
const ofHeaters = (name: string) => !ofGenerators(name) && !ofSheets(name);

/** Which heaters and generators meet the need. */
export function EquipmentStage() {
  const asked = useAsked();
  return (
    <Parts
      stage={useStage("equipment")}
      parts={[
        { key: "heaters", word: "Heaters", holds: ofHeaters, matters: asked.heat, page: <Heaters holds={ofHeaters} /> },
        {
          key: "generators",
          word: "Generators",
          holds: ofGenerators,
          matters: asked.power,
          page: <Generators holds={ofGenerators} />,
        },
        { key: "sheets", word: "Our own machines", holds: ofSheets, page: <Sheets holds={ofSheets} /> },
      ]}
    />
  );
}
