// What the core says of a job by its log, asked anew whenever either changes, and every minute, for the clock goes on.
import { useEffect, useMemo, useState } from "react";
import type { Due, Entry, Forecast, VisitField } from "../../api/client";
import { ask } from "../../engine/ask";
import { Stale } from "../../engine/engine";
import { countedOf, firstSigned, useJob, useJobStore, useRecords } from "../../job/context";
import type { Document } from "../../job/document";
import { nowMs } from "../../outbox/time";

const LOOK_AGAIN_MS = 60_000;

/** The answer to a question of document and log, null until there is one; `asking` must stay the same function. */
export function useOfTheLog<T>(asking: (document: Document, entries: Entry[], weather: Forecast | null) => Promise<T>): T | null {
  const { document } = useJob();
  const { entries, weather } = useRecords();
  const [found, setFound] = useState<T | null>(null);
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setTurn((n) => n + 1), LOOK_AGAIN_MS);
    return () => clearInterval(timer);
  }, []);
  useEffect(() => {
    let old = false;
    asking(document, countedOf(entries), weather).then(
      (made) => old || setFound(made),
      (problem: unknown) => problem instanceof Stale || old || setFound(null),
    );
    return () => {
      old = true;
    };
  }, [asking, document, entries, weather, turn]);
  return found;
}

/** What is due on the open job, and its safety tests. */
export function useDue(): Due | null {
  const { id } = useJobStore();
  const { runs } = useRecords();
  const signed = JSON.stringify(firstSigned(runs));
  const asking = useMemo(
    () => (document: Document, entries: Entry[], weather: Forecast | null) =>
      ask(
        "due",
        { document, entries, weather, signed_s: JSON.parse(signed) as Record<string, number>, now_s: nowMs() / 1000 },
        `due ${id}`,
      ),
    [id, signed],
  );
  return useOfTheLog(asking);
}

/** What a visit reads now. */
export function useVisit(): VisitField[] | null {
  const { id } = useJobStore();
  const asking = useMemo(
    () => (document: Document, entries: Entry[]) => ask("visit", { document, entries, now_s: nowMs() / 1000 }, `visit ${id}`),
    [id],
  );
  return useOfTheLog(asking);
}
