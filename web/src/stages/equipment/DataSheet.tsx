import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useQuantities, useSurroundings } from "../../app/context";
import type { Document, Json } from "../../job/document";
import { listAt, textAt } from "../../job/document";
import { namesAt, specAt } from "../../job/schema";
import { Button } from "../../ui/controls";

interface DataSheetProps {
  sheet: Document;
  kind: "heater" | "generator";
  /** Put a copy among the job's own sheets, to change it. */
  copy: () => void;
}

const AT = "equipment.sheets[0]";
export const ROWS = { heater: "burns", generator: "runs_on" } as const;

/** What the data sheet of a machine says, to be read. */
export function DataSheet({ sheet, kind, copy }: DataSheetProps) {
  const { vocabulary } = useSurroundings();
  const rows = listAt(sheet, ROWS[kind]);
  const row = `${AT}.${ROWS[kind]}[0]`;
  return (
    <Disclosure as="div">
      <DisclosureButton className="min-h-6 text-small text-ember-ink underline">
        <Trans>
          Data sheet<span className="sr-only"> of {textAt(sheet, "name")}</span>
        </Trans>
      </DisclosureButton>
      <DisclosurePanel className="mb-2 border-l-2 border-gas pl-3 text-small">
        <Lines entry={sheet} at={AT} names={namesAt(vocabulary.job_schema, AT, kind)} kind={kind} />
        {rows.map((r) => (
          <div key={textAt(r, "fuel")} className="mt-1 border-t border-rule">
            <Lines entry={r} at={row} names={namesAt(vocabulary.job_schema, row, kind)} kind={kind} />
          </div>
        ))}
        <Button edits data-testid="copy" look="quiet" onClick={copy}>
          <Trans>
            Copy to our own machines<span className="sr-only">: {textAt(sheet, "name")}</span>
          </Trans>
        </Button>
      </DisclosurePanel>
    </Disclosure>
  );
}

function Lines({ entry, at, names, kind }: { entry: Document; at: string; names: string[]; kind: string }) {
  const q = useQuantities();
  const { vocabulary } = useSurroundings();
  const read = (name: string, value: Json | undefined) => {
    const spec = specAt(vocabulary.job_schema, `${at}.${name}`, kind);
    if (!spec || value === null || value === undefined || value === "") return null;
    const words =
      typeof value === "number" && spec.kind
        ? q.show(value, spec.kind)
        : (spec.options?.find((o) => o.value === value)?.reads ?? (typeof value === "object" ? "" : String(value)));
    return { title: spec.title, words };
  };
  return (
    <dl>
      {names.map((name) => {
        const line = read(name, entry[name]);
        return line ? (
          <div key={name} className="flex justify-between gap-4 border-b border-hair">
            <dt className="text-muted">{line.title}</dt>
            <dd className="text-right">{line.words}</dd>
          </div>
        ) : null;
      })}
    </dl>
  );
}
