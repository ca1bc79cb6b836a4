import { t } from "@lingui/core/macro";
import { useJob, useJobStore, useSupply, useSupplyStage } from "../../job/context";
import { listAt, withIds } from "../../job/document";
import { Button, Message } from "../../ui/controls";
import { Parts } from "../../ui/Parts";
import { FuelChoice } from "./FuelChoice";
import { Joints } from "./Joints";
import { NightAhead } from "./NightAhead";
import { Regulators } from "./Regulators";
import { StorageAndPath } from "./StorageAndPath";

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
          <Message title={t`No supply yet`}>
            <p className="mb-3">{t`A supply is one fuel: its cylinders, tank or meter, and the path to the machines. A job can have several.`}</p>
            <AddSupply first />
          </Message>
        </div>
      ) : null}
      <Parts
        stage={useSupplyStage()}
        parts={[
          { key: "path", word: t`Storage and path`, page: <StorageAndPath key={own} /> },
          { key: "choice", word: t`Fuel choice`, page: <FuelChoice /> },
          ...(at !== null ? [{ key: "night", word: t`Hours ahead`, page: <NightAhead key={own} /> }] : []),
          ...(fromTank ? [] : [{ key: "regulators", word: t`Regulators`, page: <Regulators /> }]),
          { key: "joints", word: t`Joints`, page: <Joints key={own} /> },
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
      {first ? t`Add supply` : t`Add supply`}
    </Button>
  );
}
