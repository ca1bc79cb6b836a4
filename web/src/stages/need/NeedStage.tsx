import { useAsked, useStage } from "../../job/context";
import { Parts } from "../../ui/Parts";
import { Heat } from "./Heat";
import { Power } from "./Power";

const ofPower = (name: string) => /^(power\.|need\.(power|load)\.)/.test(name);
const ofHeat = (name: string) => !ofPower(name);

/** What must be warmed, what must be powered. */
export function NeedStage() {
  const asked = useAsked();
  return (
    <Parts
      stage={useStage("need")}
      parts={[
        { key: "heat", word: "Heat", holds: ofHeat, matters: asked.heat, page: <Heat holds={ofHeat} /> },
        { key: "power", word: "Power", holds: ofPower, matters: asked.power, page: <Power holds={ofPower} alone={!asked.heat} /> },
      ]}
    />
  );
}
