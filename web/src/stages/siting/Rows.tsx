// Entries of a list of the siting, each a row of small fields with its name; those added begin with what is usual.
import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useEntries } from "../../job/context";
import { type Document, textAt } from "../../job/document";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";

type Options = { value: string; reads: string }[];

interface RowsProps {
  /** Where the list stands. */
  list: string;
  /** What ids of new entries begin with. */
  stem: string;
  /** What one is called: "opening". */
  one: string;
  /** What several are called. */
  many: string;
  /** The button that adds one. */
  addWords: string;
  /** Fields that stand in the row, and those behind it. */
  fields: string[];
  more?: string[];
  /** What a new one begins with. */
  fresh: Document;
  /** Choices that come from the job. */
  options?: Record<string, Options>;
  /** Said where there is none yet. */
  none: string;
  /** What stands under the fields of one, given where it stands and what it is called. */
  under?: (path: string, of: string) => React.ReactNode;
}

/** A list of the document as rows. */
export function Rows({ list, stem, one, many, addWords, fields, more = [], fresh, options = {}, none, under }: RowsProps) {
  const { all, add, remove } = useEntries(list, stem);
  return (
    <section aria-label={many} className="mt-1">
      {all.length === 0 ? <p className="py-1 text-small text-muted">{none}</p> : null}
      <ul>
        {all.map((entry, n) => {
          const of = textAt(entry, "name") || `${one} ${n + 1}`;
          const field = (name: string) => {
            const choices = options[name];
            return (
              <JobField
                key={name}
                layout="stacked"
                of={of}
                path={`${list}[${n}].${name}`}
                {...(choices ? { options: choices } : {})}
              />
            );
          };
          return (
            <Disclosure as="li" key={textAt(entry, "id")} id={textAt(entry, "id")} className="border-b border-rule py-1.5">
              <div className="grid grid-cols-2 gap-1.5 sm:grid-cols-4">{fields.map(field)}</div>
              {under?.(`${list}[${n}]`, of)}
              <div className="flex gap-4">
                {more.length > 0 ? (
                  <DisclosureButton data-testid="more" className="min-h-6 text-small text-ember-ink underline">
                    <Trans>
                      More<span className="sr-only"> of {of}</span>
                    </Trans>
                  </DisclosureButton>
                ) : null}
                <button
                  data-testid="remove"
                  type="button"
                  onClick={() => remove(entry)}
                  className="min-h-6 text-small text-ember-ink underline"
                >
                  <Trans>
                    Remove<span className="sr-only"> {of}</span>
                  </Trans>
                </button>
              </div>
              <DisclosurePanel className="grid grid-cols-2 gap-1.5 sm:grid-cols-4">{more.map(field)}</DisclosurePanel>
            </Disclosure>
          );
        })}
      </ul>
      <Button data-testid="add-row" look="quiet" onClick={() => add(fresh)}>
        {addWords}
      </Button>
    </section>
  );
}
