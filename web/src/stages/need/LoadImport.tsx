import { Disclosure, DisclosureButton, DisclosurePanel, Field, Label, Textarea } from "@headlessui/react";
import { useEffect, useState } from "react";
import { Problem } from "../../api/client";
import { type LoadList, loadListOf } from "../../engine/ask";
import { Stale } from "../../engine/engine";
import { useDraft } from "../../job/context";
import type { Document } from "../../job/document";
import { Button } from "../../ui/controls";

interface LoadImportProps {
  /** Takes the loads that can be used into the job. */
  add: (loads: Document[]) => void;
  /** How many more loads the job can hold. */
  room: number;
}

const SHOWN_FAULTS = 20;

/** A list of loads pasted from a spreadsheet or read from a CSV file; each row that cannot be used is named. */
export function LoadImport({ add, room }: LoadImportProps) {
  const [text, setText] = useDraft("load list");
  const { list, problem } = useRead(text);
  const usable = list?.loads.slice(0, room) ?? [];
  const take = () => {
    add(usable);
    setText(list?.rest ?? "");
  };
  return (
    <Disclosure as="div" defaultOpen={text !== ""} className="mt-4 border-t border-rule pt-2">
      <DisclosureButton className="font-medium text-ember-ink underline">Paste from a spreadsheet, or read a CSV file</DisclosureButton>
      <DisclosurePanel className="space-y-2 pt-2">
        <p className="text-small text-muted">Columns: name, running, starting, power factor, importance. A first row of names may order them otherwise, and add type, connection, leg, duty, hours.</p>
        <Field>
          <Label className="sr-only">Rows of loads</Label>
          <Textarea value={text} onChange={(e) => setText(e.target.value)} rows={5} spellCheck={false} className="w-full rounded-sm border-[1.5px] border-edge bg-card px-2 py-1 font-mono text-small" placeholder={"Name\tRunning\tStarting\nSump pump\t800\t2400"} />
        </Field>
        <label className="block text-small">
          CSV file{" "}
          <input
            type="file"
            accept=".csv,.tsv,.txt,text/csv,text/plain"
            onChange={(e) => {
              const file = e.target.files?.[0];
              e.target.value = "";
              if (file) void file.text().then(setText);
            }}
          />
        </label>
        {problem ? (
          <p role="alert" className="font-medium text-stop">
            {problem}
          </p>
        ) : null}
        {list ? (
          <div aria-live="polite">
            {list.faults.length > 0 ? (
              <ul aria-label="Rows that cannot be used" className="border-l-4 border-stop pl-2 text-small">
                {list.faults.slice(0, SHOWN_FAULTS).map((f) => (
                  <li key={f.row} className="py-0.5">
                    <strong>Row {f.row}</strong>: {f.message} <span className="text-muted">{f.text}</span>
                  </li>
                ))}
                {list.faults.length > SHOWN_FAULTS ? <li>and {list.faults.length - SHOWN_FAULTS} more</li> : null}
              </ul>
            ) : null}
            {list.loads.length > usable.length ? <p className="text-small text-stop">A job holds 60 loads; {list.loads.length - usable.length} of these have no room.</p> : null}
            {usable.length > 0 ? (
              <div className="pt-2">
                <Button look="act" onClick={take}>
                  Add {usable.length === 1 ? "1 load" : `${usable.length} loads`}
                </Button>
              </div>
            ) : null}
          </div>
        ) : null}
      </DisclosurePanel>
    </Disclosure>
  );
}

function useRead(text: string): { list: LoadList | null; problem: string } {
  const [found, setFound] = useState<{ text: string; list: LoadList | null; problem: string }>({ text: "", list: null, problem: "" });
  useEffect(() => {
    if (text.trim() === "") return;
    let old = false;
    loadListOf(text).then(
      (list) => old || setFound({ text, list, problem: "" }),
      (problem: unknown) => {
        if (!old && !(problem instanceof Stale)) setFound({ text, list: null, problem: problem instanceof Problem ? problem.message : "The rows could not be read" });
      },
    );
    return () => {
      old = true;
    };
  }, [text]);
  return text.trim() === "" || found.text !== text ? { list: null, problem: "" } : found;
}
