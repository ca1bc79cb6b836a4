import { Disclosure, DisclosureButton, DisclosurePanel, Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQuantities, useSurroundings } from "../../app/context";
import { useJob, useJobStore, useStage } from "../../job/context";
import { type Document, freshId, listAt, textAt } from "../../job/document";
import { ComesTo, StageColumns } from "../../ui/answers";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { Parts } from "../../ui/Parts";
import { FuelChoice } from "./FuelChoice";
import { NightAhead } from "./NightAhead";

const PART_WORDS: Record<string, string> = { shut_off: "Shut-off", regulator: "Regulator", line: "Line", connector: "Connector", appliance: "Inlet of a machine" };
// Fields of each kind of part that stand in its row; name, place and allowed drop open behind it.
const PART_FIELDS: Record<string, string[]> = {
  shut_off: [],
  regulator: ["model"],
  line: ["material", "nominal", "length_m", "elbows", "tees", "valves"],
  connector: ["model"],
  appliance: ["heater"],
};

const WIDE: Record<string, string> = { model: "col-span-6", heater: "col-span-6", material: "col-span-3" , nominal: "col-span-3" };

type Options = { value: string; reads: string }[];

const ofNight = (name: string) => /^(supply\.)?night\./.test(name);
const ofChoice = (name: string) => name.startsWith("supply.choice.");
const ofPath = (name: string) => !ofNight(name) && !ofChoice(name);

/** Fuel, vessels and the path from them, and the night they must carry. */
export function SupplyStage() {
  return (
    <Parts
      stage={useStage("supply")}
      parts={[
        { key: "path", word: "Storage and path", holds: ofPath, page: <StorageAndPath /> },
        { key: "choice", word: "Fuel choice", holds: ofChoice, page: <FuelChoice holds={ofChoice} /> },
        { key: "night", word: "Night ahead", holds: ofNight, page: <NightAhead holds={ofNight} /> },
      ]}
    />
  );
}

/** Fuel, vessels, and the tree of parts from vessel to heater. */
function StorageAndPath() {
  const stage = useStage("supply");
  const { vocabulary } = useSurroundings();
  const { document } = useJob();
  const parts = listAt(document, "supply.parts");
  const fuel = textAt(document, "supply.fuel") || "propane";
  const piped = fuel === "natural_gas";
  const named = (list: string): Options =>
    (vocabulary.catalogue[list] ?? []).filter((e) => list !== "regulators" || e["gas"] === fuel).map((e) => ({ value: String(e["id"]), reads: String(e["name"]) }));
  return (
    <StageColumns
      given={
        <>
          <div id="storage">
            <JobField path="supply.fuel" />
            {piped ? <JobField path="site.gas_service_pa" /> : <JobField path="supply.storage.vessel" options={named("vessels")} />}
            {piped
              ? null
              : ["count", "wanted_s", "reserve_fraction", "duty_fraction"].map((name) => <JobField key={name} path={`supply.storage.${name}`} />)}
            <JobField path="supply.spare_flow_fraction" />
          </div>
          <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 text-base font-bold">Parts of the fuel path</h3>
          <ol>
            {parts.map((part, n) => (
              <Part key={textAt(part, "id")} part={part} n={n} parts={parts} named={named} />
            ))}
          </ol>
          <AddPart parts={parts} />
        </>
      }
      comes={<ComesTo stage={stage} holds={ofPath} choices={<Vaporizing rows={(stage?.tables["vaporizing"] ?? []) as unknown as Vaporizer[]} />} />}
    />
  );
}

interface Vaporizer {
  school: string;
  /** What one vessel boils at the reserve fill; none where the school does not hold. */
  rate_w: number | null;
}

/** What each school says one vessel boils in the coldest hour. */
function Vaporizing({ rows }: { rows: Vaporizer[] }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <table className="mb-4 w-full border-t-[1.5px] border-frame text-left">
      <caption className="pb-1 text-left text-small text-muted">What one vessel boils in the coldest hour at its reserve, by school</caption>
      <tbody>
        {rows.map((r, n) => (
          <tr key={r.school} className={`border-t border-hair ${r.rate_w === null ? "text-muted" : ""}`}>
            <th scope="row" className="py-0.5 font-medium">
              {r.school}
              {n === 0 ? <span className="font-normal text-muted"> leads</span> : null}
            </th>
            <td className="text-right">{r.rate_w === null ? "does not hold here" : q.show(r.rate_w, "heat_flow")}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Part({ part, n, parts, named }: { part: Document; n: number; parts: Document[]; named: (list: string) => Options }) {
  const store = useJobStore();
  const { vocabulary } = useSurroundings();
  const { document } = useJob();
  const kind = textAt(part, "kind");
  const id = textAt(part, "id");
  const at = `supply.parts[${n}]`;
  const of = textAt(part, "name") || id;
  const options: Record<string, Options> = {
    after: [{ value: "", reads: "the source" }, ...parts.filter((p) => p !== part && textAt(p, "kind") !== "appliance").map((p) => ({ value: textAt(p, "id"), reads: textAt(p, "name") || textAt(p, "id") }))],
    model: named(kind === "regulator" ? "regulators" : "connectors"),
    heater: (["heaters", "generators"] as const).flatMap((list) => listAt(document, `equipment.${list}`).map((h, k) => ({ value: textAt(h, "id"), reads: `${list === "heaters" ? "Heater" : "Generator"} ${k + 1}` }))),
    nominal: [{ value: "choose", reads: "choose" }, ...(vocabulary.pipe_sizes[textAt(part, "material")] ?? []).map((s) => ({ value: s, reads: `${s} in` }))],
  };
  const remove = () => {
    // What hung on this part hangs on what came before it.
    const rest = parts.filter((p) => p !== part).map((p) => (textAt(p, "after") === id ? { ...p, after: textAt(part, "after") } : p));
    store.edit("supply.parts", rest);
  };
  const field = (name: string) => {
    const choices = options[name];
    return <JobField key={name} layout="stacked" path={`${at}.${name}`} partKind={kind} of={of} {...(choices ? { options: choices } : {})} />;
  };
  return (
    <li id={id} className="border-b border-rule py-1.5">
      <Disclosure>
        <div className="grid grid-cols-[6.2rem_1fr_auto] items-center gap-2">
          <h4 className="font-medium">
            {of}
            {of === PART_WORDS[kind] ? null : <span className="block text-tiny font-normal text-muted">{PART_WORDS[kind]}</span>}
          </h4>
          <div className="grid grid-cols-6 gap-1.5">
            {(PART_FIELDS[kind] ?? []).map((name) => (
              <div key={name} className={WIDE[name] ?? "col-span-2"}>
                {field(name)}
              </div>
            ))}
          </div>
          <DisclosureButton className="text-small text-muted underline">
            place<span className="sr-only"> of {of}</span>
          </DisclosureButton>
        </div>
        <DisclosurePanel className="grid grid-cols-[1fr_1fr_auto] items-end gap-2 py-1.5 pl-4">
          {field("name")}
          {field("after")}
          <Button look="quiet" onClick={remove}>
            Remove<span className="sr-only"> {of}</span>
          </Button>
          {kind === "line" ? field("allowed_drop_pa") : null}
        </DisclosurePanel>
      </Disclosure>
    </li>
  );
}

function AddPart({ parts }: { parts: Document[] }) {
  const store = useJobStore();
  const add = (kind: string) => {
    const id = freshId(kind.replace("_", "-"), parts.map((p) => textAt(p, "id")));
    const last = parts.filter((p) => textAt(p, "kind") !== "appliance").at(-1);
    store.edit("supply.parts", [...parts, { kind, id, name: `${PART_WORDS[kind] ?? kind} ${parts.length + 1}`, after: last ? textAt(last, "id") : "" }]);
  };
  return (
    <Menu as="div" className="relative pt-3">
      <MenuButton className="min-h-9 rounded-sm border-[1.5px] border-frame bg-card px-3 font-medium">Add a part</MenuButton>
      <MenuItems anchor="bottom start" className="z-30 rounded-sm border-[1.5px] border-frame bg-card py-1">
        {Object.entries(PART_WORDS).map(([kind, word]) => (
          <MenuItem key={kind}>
            <button type="button" onClick={() => add(kind)} className="block min-h-9 w-full px-4 text-left data-focus:bg-ember-wash">
              {word}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
