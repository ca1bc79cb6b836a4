import { useJob, useStage } from "../../job/context";
import { textAt } from "../../job/document";
import { Parts } from "../../ui/Parts";
import { FuelChoice } from "./FuelChoice";
import { Joints } from "./Joints";
import { NightAhead } from "./NightAhead";
import { Regulators } from "./Regulators";
import { StorageAndPath } from "./StorageAndPath";

const ofNight = (name: string) => /^(supply\.)?night\./.test(name);
const ofChoice = (name: string) => /^supply\.(choice|cartridge)\./.test(name);
const ofJoints = (name: string) => name.startsWith("supply.joints.");
const ofPath = (name: string) => !ofNight(name) && !ofChoice(name) && !ofJoints(name);

const nothing = () => false;

/** Fuel, vessels and the path from them, its joints, and the night they must carry. */
export function SupplyStage() {
  const { document } = useJob();
  const fuel = textAt(document, "supply.fuel") || "propane";
  const fromVessels = fuel === "propane";
  const fromTank = !fromVessels && fuel !== "natural_gas";
  return (
    <Parts
      stage={useStage("supply")}
      parts={[
        { key: "path", word: "Storage and path", holds: ofPath, page: <StorageAndPath holds={ofPath} /> },
        { key: "choice", word: "Fuel choice", holds: ofChoice, page: <FuelChoice holds={ofChoice} /> },
        ...(fromVessels ? [{ key: "night", word: "Night ahead", holds: ofNight, page: <NightAhead holds={ofNight} /> }] : []),
        ...(fromTank ? [] : [{ key: "regulators", word: "Regulators", holds: nothing, page: <Regulators /> }]),
        { key: "joints", word: "Joints", holds: ofJoints, page: <Joints holds={ofJoints} /> },
      ]}
    />
  );
}
