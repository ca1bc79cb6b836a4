// One part of the fuel path as a row of the indented list: what decides it in the row, its name and place behind it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useSurroundings } from "../../app/context";
import { useJob, useJobStore } from "../../job/context";
import { type Document, freshId, listAt, textAt } from "../../job/document";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import type { Options } from "./named";
import { type Row, withAfter, without } from "./tree";

export const partWords = (): Record<string, string> => ({
  shut_off: t`Shut-off`,
  regulator: t`Regulator`,
  line: t`Line`,
  connector: t`Connector`,
  filter: t`Filter`,
  drip_pot: t`Drip pot`,
  test_port: t`Test port`,
  appliance: t`Inlet of a machine`,
});
const FOR_LIQUID = ["shut_off", "line", "filter", "appliance"];
const isLiquid = (fuel: string) => fuel !== "propane" && fuel !== "natural_gas";

/** The kinds of part that a path of this fuel may have. */
export const KINDS = (fuel: string): string[] => (isLiquid(fuel) ? FOR_LIQUID : Object.keys(partWords()));

// Fields of each kind of part that stand in its row; name, place and allowed drop open behind it.
const PART_FIELDS: Record<string, string[]> = {
  shut_off: [],
  regulator: ["model", "vent"],
  line: ["material", "nominal", "length_m", "elbows", "tees", "valves"],
  connector: ["model"],
  filter: ["drop_pa"],
  drip_pot: ["stands"],
  test_port: [],
  appliance: ["machine"],
};
const LIQUID_LINE = ["material", "nominal", "length_m", "rise_m", "elbows", "valves"];
const WIDE: Record<string, string> = {
  model: "col-span-8",
  vent: "col-span-4",
  machine: "col-span-12",
  material: "col-span-7",
  nominal: "col-span-5",
  stands: "col-span-8",
  drop_pa: "col-span-8",
};
const STEPS_IN = ["", "pl-4 border-l-2 border-gas", "pl-8 border-l-2 border-gas", "pl-12 border-l-2 border-gas"];

interface PathPartProps {
  row: Row;
  parts: Document[];
  /** Where the parts stand in the document. */
  at: string;
  fuel: string;
  /** Entries of a list of the catalogue that go with the fuel. */
  named: (list: string) => Options;
}

/** One part of the path. */
export function PathPart({ row, parts, at: list, fuel, named }: PathPartProps) {
  const store = useJobStore();
  const { vocabulary } = useSurroundings();
  const { document } = useJob();
  const { part, n, depth } = row;
  const kind = textAt(part, "kind");
  const id = textAt(part, "id");
  const at = `${list}[${n}]`;
  const of = textAt(part, "name") || id;
  const liquid = isLiquid(fuel);
  const materials = vocabulary.pipe_materials[liquid ? "liquid" : "gas"] ?? [];
  const options: Record<string, Options> = {
    after: [
      { value: "", reads: t`the source` },
      ...parts
        .filter((p) => p !== part && textAt(p, "kind") !== "appliance")
        .map((p) => ({ value: textAt(p, "id"), reads: textAt(p, "name") || textAt(p, "id") })),
    ],
    model: named(kind === "regulator" ? "regulators" : "connectors"),
    machine: (["heaters", "generators"] as const).flatMap((kinds) =>
      listAt(document, `equipment.${kinds}`).map((h, k) => ({
        value: textAt(h, "id"),
        reads: `${kinds === "heaters" ? t`Heater` : t`Generator`} ${k + 1}`,
      })),
    ),
    nominal: [
      { value: "choose", reads: "choose" },
      ...(vocabulary.pipe_sizes[textAt(part, "material")] ?? []).map((s) => ({ value: s.nominal, reads: s.reads })),
    ],
  };
  const field = (name: string) => {
    const choices = options[name];
    return (
      <JobField
        key={name}
        layout="stacked"
        path={`${at}.${name}`}
        partKind={kind}
        of={of}
        {...(choices ? { options: choices } : {})}
        {...(name === "material" ? { only: materials } : {})}
      />
    );
  };
  const fields = kind === "line" && liquid ? LIQUID_LINE : (PART_FIELDS[kind] ?? []);
  const add = (branch: boolean) => {
    const made: Document = {
      kind: "line",
      id: freshId(
        "line",
        parts.map((p) => textAt(p, "id")),
      ),
      name: t`Line ${parts.length + 1}`,
    };
    store.edit(list, withAfter(parts, id, made, branch));
  };
  return (
    <li
      id={id}
      className={`border-b border-rule py-1.5 ${STEPS_IN[Math.min(depth, STEPS_IN.length - 1)] ?? ""}`}
      data-depth={depth}
    >
      <Disclosure>
        <div className="grid grid-cols-[6.2rem_1fr_auto] items-center gap-2">
          <h4 className="font-medium">
            {of}
            {of === partWords()[kind] ? null : <span className="block text-tiny font-normal text-muted">{partWords()[kind]}</span>}
          </h4>
          <div className="grid grid-cols-12 gap-1.5">
            {fields.map((name) => (
              <div key={name} className={WIDE[name] ?? "col-span-3"}>
                {field(name)}
              </div>
            ))}
          </div>
          <DisclosureButton data-testid="place" className="text-small text-muted underline">
            <Trans>
              place<span className="sr-only"> of {of}</span>
            </Trans>
          </DisclosureButton>
        </div>
        <DisclosurePanel className="space-y-2 py-1.5 pl-4">
          <div className="grid grid-cols-2 gap-2">
            {field("name")}
            {field("after")}
            {kind === "line" ? field(liquid ? "tees" : "allowed_drop_pa") : null}
          </div>
          <div className="flex flex-wrap gap-2">
            {kind === "appliance" ? null : (
              <>
                <Button look="quiet" onClick={() => add(false)}>
                  <Trans>
                    Add a line after<span className="sr-only"> {of}</span>
                  </Trans>
                </Button>
                <Button data-testid="branch-off" look="quiet" onClick={() => add(true)}>
                  <Trans>
                    Branch off here<span className="sr-only"> after {of}</span>
                  </Trans>
                </Button>
              </>
            )}
            <Button data-testid="remove" look="quiet" onClick={() => store.edit(list, without(parts, part))}>
              <Trans>
                Remove<span className="sr-only"> {of}</span>
              </Trans>
            </Button>
          </div>
        </DisclosurePanel>
      </Disclosure>
    </li>
  );
}
