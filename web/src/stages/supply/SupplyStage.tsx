import { useJob, useJobStore, useSupply, useSupplyStage } from "../../job/context";
import { listAt, withIds } from "../../job/document";
import { Button, Message } from "../../ui/controls";
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

/** The supply looked at: its fuel, what holds it and the path from there, its joints, and the night it must carry. */
export function SupplyStage() {
  const { at, fuel } = useSupply();
  const fromVessels = fuel === "propane";
  const fromTank = !fromVessels && fuel !== "natural_gas";
  const own = at === null ? "none" : at;
  return (
    <>
      {at === null ? (
        <div className="px-5 pt-3">
          <Message title="No supply yet">
            <p className="mb-3">A supply is one fuel with what holds it and the path to the machines. A job may have several.</p>
            <AddSupply first />
          </Message>
        </div>
      ) : null}
      <Parts
        stage={useSupplyStage()}
        parts={[
          { key: "path", word: "Storage and path", holds: ofPath, page: <StorageAndPath key={own} holds={ofPath} /> },
          { key: "choice", word: "Fuel choice", holds: ofChoice, page: <FuelChoice holds={ofChoice} /> },
          ...(fromVessels && at !== null
            ? [{ key: "night", word: "Night ahead", holds: ofNight, page: <NightAhead key={own} holds={ofNight} /> }]
            : []),
          ...(fromTank ? [] : [{ key: "regulators", word: "Regulators", holds: nothing, page: <Regulators /> }]),
          { key: "joints", word: "Joints", holds: ofJoints, page: <Joints key={own} holds={ofJoints} /> },
        ]}
        beside={at === null ? null : <AddSupply />}
      />
    </>
  );
}

const MOST = 6;

/** One more supply, or the first. */
function AddSupply({ first = false }: { first?: boolean }) {
  const store = useJobStore();
  const all = listAt(useJob().document, "supplies");
  if (all.length >= MOST) return null;
  const add = () => store.edit("supplies", withIds("supply", all, [{ fuel: "propane", parts: [] }]));
  return (
    <Button edits look={first ? "act" : "quiet"} onClick={add}>
      {first ? "Add the first supply" : "Add a supply"}
    </Button>
  );
}
