// What to take along, counted from the plan: ticked off, shared with the crew, printed; what was missed last time stands first.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { v7 as uuidv7 } from "uuid";
import { type Kit, type KitItem, answer, api } from "../../api/client";
import { useQuantities, useSurroundings } from "../../app/context";
import { ask } from "../../engine/ask";
import { Stale } from "../../engine/engine";
import { countedOf, useJob, useJobStore, useRecords } from "../../job/context";
import { textAt } from "../../job/document";
import { Button, Skeleton } from "../../ui/controls";
import { stamp } from "../../outbox/time";

export function KitList() {
  const { device, sender, person } = useSurroundings();
  const { id, role } = useJobStore();
  const { document } = useJob();
  const kit = useKit();
  // What was just ticked stands at once; the list follows.
  const [ticked, tick] = useState<Record<string, boolean>>({});
  if (!kit)
    return (
      <main className="p-5">
        <Skeleton />
      </main>
    );
  const say = async (item: KitItem, look: "packed" | "unpacked" | "missed") => {
    tick({ ...ticked, [item.key]: look === "packed" });
    await device.recordEntries(id, [
      { id: uuidv7(), ...stamp(), kind: "kit", item: item.key, look, classes: kit.classes, by: person.name },
    ]);
    sender.wake();
  };
  const items = kit.items.map((i) => ({ ...i, packed: ticked[i.key] ?? i.packed }));
  const groups = [...new Set(kit.items.map((i) => i.group))].map((group) => items.filter((i) => i.group === group));
  const packed = items.filter((i) => i.packed).length;
  return (
    <main className="mx-auto w-full max-w-5xl px-5 py-4 print:max-w-none">
      <div className="flex flex-wrap items-baseline gap-3 pb-2">
        <h1 className="text-big font-bold">{t`Kit list`}</h1>
        <p className="hidden text-muted print:block">{textAt(document, "name")}</p>
        <p role="status" className="mr-auto text-ink-2">
          <Trans>
            {packed} of {kit.items.length} packed
          </Trans>
        </p>
        <span className="no-print">
          <Button onClick={() => print()}>{t`Print`}</Button>
        </span>
      </div>
      <p className="no-print pb-2 text-small text-muted">{t`Tick what is in the van, and the crew sees it. Mark what was missing at the unit, and it comes first next time.`}</p>
      <div aria-hidden="true" className="no-print mb-3 h-2 bg-hair">
        <div className="h-2 bg-good" style={{ width: `${(100 * packed) / Math.max(1, kit.items.length)}%` }} />
      </div>
      <div className="gap-8 md:columns-2">
        {groups.map((own) => (
          <section key={own[0]?.group} aria-label={own[0]?.title ?? ""} className="mb-4 break-inside-avoid">
            <h2 className={`border-b-[1.5px] border-frame font-bold ${own[0]?.group === "forgotten" ? "text-ember-ink" : ""}`}>
              {own[0]?.title}
            </h2>
            <ul>
              {own.map((i) => (
                <Item key={i.key} item={i} may={role !== "guest"} say={(look) => void say(i, look)} />
              ))}
            </ul>
          </section>
        ))}
      </div>
    </main>
  );
}

/** The list as the core counts it, with what is ticked and what was missed elsewhere. */
function useKit(): Kit | null {
  const { id } = useJobStore();
  const { document } = useJob();
  const { entries } = useRecords();
  const missed = useQuery({
    queryKey: ["missed", id],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/missed", { params: { path: { job_id: id } } })),
  });
  const [kit, setKit] = useState<Kit | null>(null);
  const known = missed.data;
  useEffect(() => {
    let old = false;
    ask("kit", { document, entries: countedOf(entries), missed: known ?? [] }, "kit").then(
      (found) => old || setKit(found),
      (problem: unknown) => {
        if (!(problem instanceof Stale)) setKit((last) => last);
      },
    );
    return () => {
      old = true;
    };
  }, [document, entries, known]);
  return kit;
}

interface ItemProps {
  item: KitItem;
  /** Whether this person may tick. */
  may: boolean;
  say: (look: "packed" | "unpacked" | "missed") => void;
}

function Item({ item, may, say }: ItemProps) {
  const q = useQuantities();
  return (
    <li data-item={item.key} className="flex items-start gap-2 border-b border-hair py-1">
      <label className="flex min-h-11 flex-1 items-center gap-3 print:min-h-0">
        <input
          type="checkbox"
          checked={item.packed}
          disabled={!may}
          onChange={() => say(item.packed ? "unpacked" : "packed")}
          className="size-6 shrink-0 accent-gas print:size-4"
        />
        <span>
          <span className={item.packed ? "text-muted line-through print:text-ink print:no-underline" : "font-medium"}>
            {q.say(item.say, item.values)}
          </span>
          {item.why ? <span className="block text-small text-muted">{item.why}</span> : null}
        </span>
      </label>
      {may ? (
        <span className="no-print pt-1.5">
          <Button data-testid="missed" look="quiet" onClick={() => say("missed")}>
            <Trans>
              Was missing<span className="sr-only"> at the unit: {q.say(item.say, item.values)}</span>
            </Trans>
          </Button>
        </span>
      ) : null}
    </li>
  );
}
