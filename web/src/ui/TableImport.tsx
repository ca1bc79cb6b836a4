import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel, Field, Label, Textarea } from "@headlessui/react";
import { type ReactNode, useCallback, useEffect, useState } from "react";
import { Problem } from "../api/client";
import { ask } from "../engine/ask";
import { Stale } from "../engine/engine";
import { useDraft } from "../job/context";
import type { Document } from "../job/document";
import { Button } from "./controls";

interface RowsProps {
  text: string;
  setText: (text: string) => void;
  /** Several of what the rows are. */
  several: string;
  columns: string;
  example: string;
  /** Why nothing of it can be read. */
  problem: string;
  /** The rows that cannot be used; null while nothing is read. */
  faults: { row: number; text: string; message: string }[] | null;
  /** What can be done with those that can. */
  children: ReactNode;
}

interface TableImportProps {
  /** What the rows list. */
  list: "loads" | "hours";
  /** Takes the entries that can be used into the job. */
  add: (entries: Document[]) => void;
  /** How many more the job can hold, and how many in all. */
  room: number;
  most: number;
  /** One entry and several, as they read on the button. */
  one: string;
  several: string;
  /** Which columns are read, and a first pair of rows as an example. */
  columns: string;
  example: string;
}

const SHOWN_FAULTS = 20;

/** Rows pasted from a spreadsheet or read from a CSV file; each row that cannot be used is named. */
export function TableImport({ list, add, room, most, one, several, columns, example }: TableImportProps) {
  const [text, setText] = useDraft(t`pasted ${list}`);
  const asking = useCallback((rows: string) => ask("pasted", { list, text: rows }, t`pasted ${list}`), [list]);
  const { found, problem } = useRows(text, asking);
  const usable = (found?.entries.slice(0, room) ?? []) as Document[];
  const take = () => {
    add(usable);
    setText(found?.rest ?? "");
  };
  return (
    <PastedRows
      text={text}
      setText={setText}
      several={several}
      columns={columns}
      example={example}
      problem={problem}
      faults={found?.faults ?? null}
    >
      {found && found.entries.length > usable.length ? (
        <p className="text-small text-stop">
          <Trans>
            A job holds {most} {several}. There is no room for {found.entries.length - usable.length} of these.
          </Trans>
        </p>
      ) : null}
      {usable.length > 0 ? (
        <div className="pt-2">
          <Button data-testid="add-rows" look="act" onClick={take}>
            <Trans>Add {usable.length === 1 ? `1 ${one}` : `${usable.length} ${several}`}</Trans>
          </Button>
        </div>
      ) : null}
    </PastedRows>
  );
}

/** Where rows are pasted or a CSV file is chosen, and each row that cannot be used. */
export function PastedRows({ text, setText, several, columns, example, problem, faults, children }: RowsProps) {
  return (
    <Disclosure as="div" defaultOpen={text !== ""} className="mt-4 border-t border-rule pt-2">
      <DisclosureButton
        data-testid="paste"
        className="font-medium text-ember-ink underline"
      >{t`Paste from a spreadsheet, or read a CSV file`}</DisclosureButton>
      <DisclosurePanel className="space-y-2 pt-2">
        <p className="text-small text-muted">{columns}</p>
        <Field>
          <Label className="sr-only">
            <Trans>Rows of {several}</Trans>
          </Label>
          <Textarea
            data-testid="rows"
            value={text}
            onChange={(e) => setText(e.target.value)}
            rows={5}
            spellCheck={false}
            className="w-full rounded-sm border-[1.5px] border-edge bg-card px-2 py-1 font-mono text-small"
            placeholder={example}
          />
        </Field>
        <label className="block text-small">
          <Trans>
            CSV file{" "}
            <input
              data-testid="csv-file"
              type="file"
              accept=".csv,.tsv,.txt,text/csv,text/plain"
              onChange={(e) => {
                const file = e.target.files?.[0];
                e.target.value = "";
                if (file) void file.text().then(setText);
              }}
            />
          </Trans>
        </label>
        {problem ? (
          <p role="alert" className="font-medium text-stop">
            {problem}
          </p>
        ) : null}
        {faults ? (
          <div aria-live="polite">
            {faults.length > 0 ? (
              <ul
                data-testid="bad-rows"
                aria-label={t`Rows that cannot be used`}
                className="border-l-4 border-stop pl-2 text-small"
              >
                {faults.slice(0, SHOWN_FAULTS).map((f) => (
                  <li key={`${f.row} ${f.text}`} className="py-0.5">
                    {f.row > 0 ? (
                      <strong>
                        <Trans>Row {f.row}: </Trans>
                      </strong>
                    ) : null}
                    {f.message} <span className="text-muted">{f.text}</span>
                  </li>
                ))}
                {faults.length > SHOWN_FAULTS ? (
                  <li>
                    <Trans>and {faults.length - SHOWN_FAULTS} more</Trans>
                  </li>
                ) : null}
              </ul>
            ) : null}
            {children}
          </div>
        ) : null}
      </DisclosurePanel>
    </Disclosure>
  );
}

/** What the core makes of the rows pasted, null until it has answered; `asking` must stay the same function. */
export function useRows<T>(text: string, asking: (text: string) => Promise<T>): { found: T | null; problem: string } {
  const [read, setRead] = useState<{ text: string; asking: unknown; found: T | null; problem: string } | null>(null);
  useEffect(() => {
    if (text.trim() === "") return;
    let old = false;
    asking(text).then(
      (found) => old || setRead({ text, asking, found, problem: "" }),
      (problem: unknown) => {
        if (!old && !(problem instanceof Stale))
          setRead({
            text,
            asking,
            found: null,
            problem: problem instanceof Problem ? problem.message : t`The rows cannot be read`,
          });
      },
    );
    return () => {
      old = true;
    };
  }, [text, asking]);
  return text.trim() === "" || read?.text !== text || read.asking !== asking ? { found: null, problem: "" } : read;
}
