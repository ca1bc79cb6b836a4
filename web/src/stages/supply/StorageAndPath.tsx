// Supply, storage and path: the fuel and what holds it, the parts from there to each machine, and what comes of them.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQuantities } from "../../app/context";
import { useJob, useJobStore, useSupply, useSupplyStage } from "../../job/context";
import { type Document, freshId, listAt, textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { Lasting } from "./Lasting";
import { KINDS, partWords, PathPart } from "./PathPart";
import { type Options, useNamed } from "./named";
import { rows, withAfter } from "./tree";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { More } from "../../ui/More";

const STORAGE = ["count", "wanted_s", "reserve_fraction", "duty_fraction", "withdrawal", "lead_s"];
const TANK = ["tank_m3", "tanks"];
const DIPPED = ["shape", "length_m", "diameter_m", "end"];
const LIQUID = ["grade", "fuel_c", "tank_m3", "tanks", "suction_most_pa"];

/** Fuel, what holds it, and the tree of parts from there to each machine. */
export function StorageAndPath() {
  const stage = useSupplyStage();
  const { at, given, fuel } = useSupply();
  const parts = listAt(given, "parts");
  const named = useNamed(fuel);
  const names = new Map(
    parts
      .filter((p) => textAt(p, "kind") === "appliance")
      .map((p) => [textAt(p, "machine"), textAt(p, "name") || textAt(p, "machine")]),
  );
  return (
    <StagePart
      given={
        at === null ? null : (
          <>
            <div id="storage">
              <JobField path={`${at}.name`} />
              <JobField path={`${at}.fuel`} />
              <Source at={at} fuel={fuel} vessels={named("vessels")} />
            </div>
            <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 text-base font-bold">{t`Parts of the fuel path`}</h3>
            <ol>
              {rows(parts).map((row) => (
                <PathPart key={textAt(row.part, "id")} row={row} parts={parts} at={`${at}.parts`} fuel={fuel} named={named} />
              ))}
            </ol>
            <AddPart parts={parts} at={`${at}.parts`} fuel={fuel} />
            <RemoveSupply at={at} />
          </>
        )
      }
      stage={stage}
      part="path"
      choices={
        <>
          <Sizes rows={stage?.tables["vessel_sizes"] ?? []} />
          <Vaporizing rows={stage?.tables["vaporizing"] ?? []} />
          <Sets rows={stage?.tables["subsets"] ?? []} names={names} />
          <Equations rows={stage?.tables["equations"] ?? []} />
        </>
      }
    >
      <Lasting rows={stage?.tables["lasting"] ?? []} ahead={stage?.tables["ahead"] ?? []} />
    </StagePart>
  );
}

function Source({ at, fuel, vessels }: { at: string; fuel: string; vessels: Options }) {
  if (fuel === "natural_gas")
    return (
      <>
        <JobField path="site.gas_service_pa" />
        <JobField path={`${at}.spare_flow_fraction`} />
        <JobField path={`${at}.sizing`} />
      </>
    );
  if (fuel === "propane")
    return (
      <>
        <JobField path={`${at}.storage.vessel`} options={vessels} />
        {STORAGE.map((name) => (
          <JobField key={name} path={`${at}.storage.${name}`} />
        ))}
        <JobField path={`${at}.spare_flow_fraction`} />
        <JobField path={`${at}.sizing`} />
      </>
    );
  return (
    <>
      {(fuel === "petrol" ? TANK : LIQUID).map((name) => (
        <JobField key={name} path={`${at}.liquid.${name}`} />
      ))}
      <JobField path={`${at}.storage.wanted_s`} />
      <JobField path={`${at}.storage.lead_s`} />
      <More what={t`inside of the tank, for a dipstick`} paths={DIPPED.map((name) => `${at}.liquid.${name}`)}>
        {DIPPED.map((name) => (
          <JobField key={name} path={`${at}.liquid.${name}`} />
        ))}
      </More>
    </>
  );
}

type VesselSize = Row<"vessel_sizes">;

/** How many of each size would do, and what decides. */
function Sizes({ rows }: { rows: VesselSize[] }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <CaptionedTable
      caption={t`How many of each size are enough`}
      small
      heads={[
        { word: t`Cylinder or tank` },
        { word: t`For the running time`, right: true },
        { word: t`For the draw (vaporizing)`, right: true },
        { word: t`How many`, right: true },
        { word: t`All of them full`, right: true },
      ]}
    >
      {rows.map((r) => (
        <tr key={r.vessel} className="border-t border-hair text-right">
          <th scope="row" className="py-0.5 text-left font-medium">
            {r.name}
          </th>
          <td className={r.hours >= r.rate ? "font-semibold" : "text-muted"}>{r.hours}</td>
          <td className={r.rate >= r.hours ? "font-semibold" : "text-muted"}>{r.rate}</td>
          <td>{r.count}</td>
          <td>{q.show(r.mass_kg, "mass")}</td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

type Vaporizer = Row<"vaporizing">;

/** What each school says one vessel boils in the coldest hour. */
function Vaporizing({ rows: schools }: { rows: Vaporizer[] }) {
  const q = useQuantities();
  if (schools.length === 0) return null;
  return (
    <CaptionedTable caption={t`What one cylinder can vaporize in the coldest hour at its reserve, by method`}>
      {schools.map((r, n) => (
        <tr key={r.school} className={`border-t border-hair ${r.rate_w === null ? "text-muted" : ""}`}>
          <th scope="row" className="py-0.5 font-medium">
            {r.school}
            {n === 0 ? <span className="font-normal text-muted">{t` (in use)`}</span> : null}
          </th>
          <td className="text-right">{r.rate_w === null ? t`not enough here` : q.show(r.rate_w, "heat_flow")}</td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

type SetOfMachines = Row<"subsets">;

/** What arrives at every inlet with each set of machines that matters. */
function Sets({ rows: sets, names }: { rows: SetOfMachines[]; names: Map<string, string> }) {
  const q = useQuantities();
  if (sets.length === 0) return null;
  const machines = [...names.keys()].filter((id) => sets.some((s) => id in s.pressures));
  return (
    <CaptionedTable
      caption={
        <>
          <Trans>Pressure at each inlet, by the machines on, {q.split(1, "gas_pressure").unit}</Trans>
        </>
      }
      small
      heads={[{ word: t`Machines on` }, ...machines.map((id) => ({ word: names.get(id) ?? id, right: true }))]}
    >
      {sets.map((s) => (
        <tr key={s.words} className="border-t border-hair text-right">
          <th scope="row" className="py-0.5 text-left font-medium">
            {s.words}
          </th>
          {machines.map((id) => {
            const pa = s.pressures[id];
            return <td key={id}>{pa === undefined ? "—" : q.split(pa, "gas_pressure").number}</td>;
          })}
        </tr>
      ))}
    </CaptionedTable>
  );
}

type Equation = Row<"equations">;

const equationsWords = () => [
  { word: t`Line` },
  ...[t`Needed`, "NFPA 54", "Spitzglass", "Mueller", "Weymouth"].map((word) => ({ word, right: true })),
];

/** What other pipe equations say each line carries, beside the one that leads. */
function Equations({ rows: lines }: { rows: Equation[] }) {
  const q = useQuantities();
  if (lines.length === 0) return null;
  const flow = (v: number) => q.split(v, "gas_flow").number;
  return (
    <CaptionedTable
      caption={
        <>
          <Trans>
            What each line carries at its drop, by pipe equation, {q.split(1, "gas_flow").unit}. The NFPA 54 one is used.
          </Trans>
        </>
      }
      small
      heads={equationsWords()}
    >
      {lines.map((r) => (
        <tr key={r.line} className="border-t border-hair text-right">
          <th scope="row" className="py-0.5 text-left font-medium">
            {r.line} <span className="font-normal text-muted">{r.size}</span>
          </th>
          <td>{flow(r.needed)}</td>
          <td className="font-semibold">{flow(r.nfpa)}</td>
          <td>{flow(r.spitzglass)}</td>
          <td>{flow(r.mueller)}</td>
          <td>{flow(r.weymouth)}</td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

/** Taking a supply out of the job; the machines that hung on it stay. */
function RemoveSupply({ at }: { at: string }) {
  const store = useJobStore();
  const { given } = useSupply();
  const gone = listAt(useJob().document, "supplies").filter((_, n) => at !== `supplies[${n}]`);
  return (
    <div className="pt-4">
      <Button edits look="quiet" onClick={() => store.edit("supplies", gone)}>
        <Trans>
          Remove supply<span className="sr-only"> {textAt(given, "name")}</span>
        </Trans>
      </Button>
    </div>
  );
}

function AddPart({ parts, at, fuel }: { parts: Document[]; at: string; fuel: string }) {
  const store = useJobStore();
  const add = (kind: string) => {
    const id = freshId(
      kind.replace("_", "-"),
      parts.map((p) => textAt(p, "id")),
    );
    const last = rows(parts)
      .filter((r) => textAt(r.part, "kind") !== "appliance")
      .at(-1)?.part;
    const made: Document = { kind, id, name: `${partWords()[kind] ?? kind} ${parts.length + 1}` };
    store.edit(at, withAfter(parts, last ? textAt(last, "id") : "", made, true));
  };
  return (
    <Menu as="div" className="relative pt-3">
      <MenuButton
        data-testid="add-part"
        className="min-h-9 rounded-sm border-[1.5px] border-frame bg-card px-3 font-medium"
      >{t`Add part`}</MenuButton>
      <MenuItems anchor="bottom start" className="z-30 rounded-sm border-[1.5px] border-frame bg-card py-1">
        {KINDS(fuel).map((kind) => (
          <MenuItem key={kind}>
            <button
              type="button"
              data-testid={`add-${kind}`}
              onClick={() => add(kind)}
              className="block min-h-9 w-full px-4 text-left data-focus:bg-ember-wash"
            >
              {partWords()[kind]}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
