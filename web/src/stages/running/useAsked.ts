// What the core says of a job by its log, asked anew whenever either changes, and every minute, for the clock goes on.
import { useEffect, useMemo, useState } from "react";
import type { Due, Entry, VisitField } from "../../api/client";
import { dueOf, visitOf } from "../../engine/ask";
import { Stale } from "../../engine/engine";
import { countedOf, firstSigned, useJob, useJobStore, useRecords } from "../../job/context";
import type { Document } from "../../job/document";

const LOOK_AGAIN_MS = 60_000;

/** The answer to a question of document and log, null until there is one; `ask` must stay the same function. */
export function useOfTheLog<T>(ask: (document: Document, entries: Entry[]) => Promise<T>): T | null {
  const { document } = useJob();
  const { entries } = useRecords();
  const [found, setFound] = useState<T | null>(null);
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setTurn((n) => n + 1), LOOK_AGAIN_MS);
    return () => clearInterval(timer);
  }, []);
  useEffect(() => {
    let old = false;
    ask(document, countedOf(entries)).then(
      (made) => old || setFound(made),
      (problem: unknown) => problem instanceof Stale || old || setFound(null),
    );
    return () => {
      old = true;
    };
  }, [ask, document, entries, turn]);
  return found;
}

/** What is due on the open job, and its safety tests. */
export function useDue(): Due | null {
  const { id } = useJobStore();
  const { runs } = useRecords();
  const signed = JSON.stringify(firstSigned(runs));
  const ask = useMemo(
    () => (document: Document, entries: Entry[]) =>
      dueOf(document, entries, JSON.parse(signed) as Record<string, number>, `due ${id}`),
    [id, signed],
  );
  return useOfTheLog(ask);
}

/** What a visit reads now. */
export function useVisit(): VisitField[] | null {
  const { id } = useJobStore();
  const ask = useMemo(() => (document: Document, entries: Entry[]) => visitOf(document, entries, `visit ${id}`), [id]);
  return useOfTheLog(ask);
}
