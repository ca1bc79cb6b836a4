// What heaters and generators have alike on the screen: the models to pick from, a chosen one's row, those ruled out.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { v7 as uuidv7 } from "uuid";
import { useSurroundings } from "../../app/context";
import { useEntries, useJob } from "../../job/context";
import { type Document, at, listAt, textAt } from "../../job/document";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { DataSheet } from "./DataSheet";

/** What the shipped catalogue and the job's own data sheets offer. */
export function useModels(list: "heaters" | "generators") {
  const { vocabulary } = useSurroundings();
  const { document } = useJob();
  const kind = list === "heaters" ? "heater" : "generator";
  const own = listAt(document, "equipment.sheets").filter((s) => textAt(s, "kind") === kind);
  const taken = new Set(own.map((s) => textAt(s, "id")));
  const shipped = vocabulary.catalogue[list].map((h) => ({ value: h.id, reads: h.name }));
  return [
    ...own.map((s) => ({ value: textAt(s, "id"), reads: `${textAt(s, "name") || textAt(s, "id")} (own)` })),
    ...shipped.filter((m) => !taken.has(m.value)),
  ];
}

/** The data sheet of the model chosen at a place: an own one, else a shipped one. */
function Sheet({ model, list }: { model: string; list: "heaters" | "generators" }) {
  const { vocabulary } = useSurroundings();
  const { document } = useJob();
  const own = useEntries("equipment.sheets", "own");
  const kind = list === "heaters" ? "heater" : "generator";
  const id = at(document, `${model}.model`);
  const shipped: Document[] = vocabulary.catalogue[list];
  const sheet = own.all.find((s) => s["id"] === id) ?? shipped.find((s) => s["id"] === id);
  if (!sheet) return null;
  const copy = () => own.add({ ...sheet, kind, id: `own-${uuidv7().slice(-10)}`, name: t`${textAt(sheet, "name")}, our own` });
  return <DataSheet sheet={sheet} kind={kind} copy={copy} />;
}

interface MachineRowProps {
  machine: Document;
  /** Where it stands in the document. */
  at: string;
  /** What it is called here, "Heater 2". */
  of: string;
  list: "heaters" | "generators";
  remove: () => void;
  /** What is known of it beside its model. */
  children: React.ReactNode;
}

/** A machine chosen: its model, and what is known of it. */
export function MachineRow({ machine, at: place, of, list, remove, children }: MachineRowProps) {
  const models = useModels(list);
  return (
    <div id={textAt(machine, "id")} className="border-b border-rule py-1">
      <div className="grid grid-cols-[1fr_auto] items-start gap-2">
        <JobField path={`${place}.model`} label={of} options={models} />
        <Button data-testid="remove" look="quiet" onClick={remove}>
          <Trans>
            Remove<span className="sr-only"> {of.toLowerCase()}</span>
          </Trans>
        </Button>
      </div>
      <div className="grid grid-cols-2 gap-2">{children}</div>
      <Sheet model={place} list={list} />
    </div>
  );
}

export type RuledOut = Row<"ruled_out">;

/** Those that cannot do it, each with its one reason. */
export function RuledOutList({ rows }: { rows: RuledOut[] }) {
  if (rows.length === 0) return null;
  return (
    <Disclosure as="div" className="mb-4 border-t border-rule pt-1">
      <DisclosureButton data-testid="ruled-out" className="font-medium text-ember-ink underline">
        <Trans>Ruled out ({rows.length})</Trans>
      </DisclosureButton>
      <DisclosurePanel>
        <ul>
          {rows.map((r) => (
            <li key={r.model} className="flex justify-between gap-4 border-b border-hair py-0.5 text-small">
              <span>{r.name}</span>
              <span className="text-right text-muted">{r.reason}</span>
            </li>
          ))}
        </ul>
      </DisclosurePanel>
    </Disclosure>
  );
}
