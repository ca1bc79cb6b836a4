import { useLiveQuery } from "dexie-react-hooks";
import { createContext, use, useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import {
  type Answers,
  type Assumed,
  type Entry,
  type Forecast,
  LEVELS,
  type MachineState,
  type OpenThing,
  type ProblemBody,
  type Run,
  type RunEvent,
  type RunningAnswer,
  type Stage,
  type StageLine,
  type StageName,
  type SupplyPlan,
} from "../api/client";
import { useSurroundings } from "../app/context";
import { ask } from "../engine/ask";
import { Stale } from "../engine/engine";
import type { KeptRecord } from "../outbox/db";
import { type Document, listAt, textAt, withIds } from "./document";
import type { JobState, JobStore } from "./store";
import { nowMs } from "../outbox/time";

export const JobContext = createContext<JobStore | null>(null);

/** The store of the open job. */
export function useJobStore(): JobStore {
  const store = use(JobContext);
  if (!store) throw new Error("used outside of an open job");
  return store;
}

/** The open job as it stands now. */
export function useJob(): JobState {
  const store = useJobStore();
  return useSyncExternalStore(store.subscribe, store.get);
}

/** A part of the open job; whoever reads it is drawn again only when that part changes. Parts are values, not made anew. */
export function useJobPart<T>(part: (state: JobState) => T): T {
  const store = useJobStore();
  return useSyncExternalStore(store.subscribe, () => part(store.get()));
}

const NONE: Assumed[] = [];

/** What counts in the job and nobody typed; null while that is not known yet. */
export const AssumedContext = createContext<Assumed[] | null>(null);
export const useAssumed = (): Assumed[] => use(AssumedContext) ?? NONE;
export const useIsAssumedKnown = (): boolean => use(AssumedContext) !== null;

/** A text that survives a reload until it is recorded: what it says, and how to change it. */
export function useDraft(key: string): [string, (text: string) => void] {
  const store = useJobStore();
  return [useJobPart((s) => s.drafts[key] ?? ""), (text) => store.draft(key, text === "" ? null : text)];
}

export interface Entries {
  all: Document[];
  /** Put entries at the end, each with an id that no other has. */
  add: (...entries: Document[]) => void;
  remove: (entry: Document) => void;
}

/** A list of the document whose entries have ids of their own, beginning with the stem. */
export function useEntries(path: string, stem: string): Entries {
  const store = useJobStore();
  const all = listAt(useJob().document, path);
  return {
    all,
    add: (...entries) => store.edit(path, withIds(stem, all, entries)),
    remove: (entry) =>
      store.edit(
        path,
        all.filter((e) => e !== entry),
      ),
  };
}

/** One stage of the plan, null until there is an answer. */
export function useStage(name: StageName): Stage | null {
  return useJob().plan?.stages.find((s) => s.stage === name) ?? null;
}

/** Whether something must be warmed, and whether something must be powered; nothing known yet asks for heat. */
export function useAsked(): { heat: boolean; power: boolean } {
  const heat = useJobPart((s) => ["need.spaces", "need.valves", "equipment.heaters"].some((p) => listAt(s.document, p).length > 0));
  const power = useJobPart((s) => ["need.loads", "equipment.generators"].some((p) => listAt(s.document, p).length > 0));
  return { heat: heat || !power, power };
}

/** Which supply of the job is looked at: its place among them. */
export const SupplyHereContext = createContext<{ here: number; look: (n: number) => void }>({ here: 0, look: () => undefined });

export interface SupplyHere {
  /** Where it stands in the document; null where the job has none. */
  at: string | null;
  given: Document;
  fuel: string;
  plan: SupplyPlan | null;
}

/** The supply looked at: what is given of it, and its plan. */
export function useSupply(): SupplyHere {
  const { document, plan } = useJob();
  const supplies = listAt(document, "supplies");
  const here = Math.min(use(SupplyHereContext).here, supplies.length - 1);
  const given = supplies[here] ?? {};
  return {
    at: here < 0 ? null : `supplies[${here}]`,
    given,
    fuel: textAt(given, "fuel") || "propane",
    plan: plan?.supplies[here] ?? null,
  };
}

/** What several reports of one stage come to together. */
export function together(reports: Stage[]): Stage | null {
  const [first] = reports;
  if (!first || reports.length === 1) return first ?? null;
  const verdicts = reports.flatMap((r) => r.verdicts).sort((a, b) => LEVELS.indexOf(a.level) - LEVELS.indexOf(b.level));
  return {
    ...first,
    worst: verdicts[0]?.level ?? null,
    headlines: reports.flatMap((r) => r.headlines),
    figures: reports.flatMap((r) => r.figures),
    verdicts,
    tables: Object.assign({}, ...reports.map((r) => r.tables)) as Stage["tables"],
  };
}

/** The Supply stage as far as it concerns the supply looked at: what concerns all of them, and its own. */
export function useSupplyStage(): Stage | null {
  const whole = useStage("supply");
  const own = useSupply().plan?.stage;
  return useMemo(() => (whole ? together(own ? [own, whole] : [whole]) : null), [whole, own]);
}

/** A log entry and whether the server has it. */
export type LoggedEntry = Entry & { sent: boolean; refusal: ProblemBody | null };

export interface JobRecords {
  /** Commissioning runs, newest first. */
  runs: Run[];
  entries: LoggedEntry[];
  /** The newest forecast that was fetched for the job, null where none was. */
  weather: Forecast | null;
  /** What the log says against the plan, null until there is an answer. */
  running: RunningAnswer | null;
  /** Where the commissioning of each machine stands. */
  machines: MachineState[];
  /** What is open before the job is signed off, null until there is an answer. */
  open: OpenThing[] | null;
  /** Where each stage that has records stands, in one line; one that is not known yet has none. */
  lines: StageLine[];
  /** Whether that has been reckoned from all that is kept here; until then nobody says that nothing was begun. */
  isKnown: boolean;
}

export const RecordsContext = createContext<JobRecords>({
  runs: [],
  entries: [],
  weather: null,
  running: null,
  machines: [],
  open: null,
  lines: [],
  isKnown: false,
});
export const useRecords = (): JobRecords => use(RecordsContext);

/** The runs and the log of the open job, computed from what this device keeps. */
export function useJobRecords(): JobRecords {
  const { device } = useSurroundings();
  const { id } = useJobStore();
  const document = useSettled(useJob().document);
  const kept = useLiveQuery(() => device.db.runs.where("job").equals(id).reverse().sortBy("begunAt"), [device, id]);
  const weather = useWeather(id);
  const records = useLiveQuery(() => device.db.records.where("job").equals(id).sortBy("at"), [device, id]);
  const [reckonedRuns, setRuns] = useState<Run[] | null>(null);
  const runs = reckonedRuns ?? NO_RUNS;
  const [tries, setTries] = useState(0);
  const [running, setRunning] = useState<RunningAnswer | null>(null);
  const logAsked = useRef(false);
  const [commissioned, setCommissioned] = useState<Answers<"commissioning"> | null>(null);
  const [handed, setHanded] = useState<Answers<"open"> | null>(null);
  const entries = useEntriesOf(records);
  const reckoned = useRef(new Map<string, { of: string; document: Document; run: Run }>());

  useEffect(() => {
    if (!kept || !records) return;
    let old = false;
    const now = kept.map(async (run): Promise<Run> => {
      if (!run.procedure) throw new Error("its procedure is not here yet");
      const own = records.filter((r) => r.owner === run.id);
      // Of several runs most are as they were: only what changed is reckoned again.
      const tested = entriesOf(records).filter((e) => TESTED.has(String(e["kind"])));
      const hour = Math.floor(nowMs() / 3_600_000);
      const of = [
        hour,
        ...tested.map((e) => String(e["id"])),
        run.signed?.at,
        run.signedHere?.at,
        run.refusal?.title,
        run.refusedAt,
        ...own.map((r) => `${r.id}${r.refusal ? "x" : ""}`),
      ].join();
      const waiting = own.filter((r) => r.sent === 0).length;
      const last = reckoned.current.get(run.id);
      if (last?.of === of && last.document === document) return { ...last.run, waiting };
      const counted = own.filter((r) => r.refusal === null).map((r) => r.body as RunEvent);
      const found = await ask(
        "run",
        {
          procedure: run.procedure,
          events: counted,
          newest: document,
          entries: firstAnd(records, TESTED),
          signed_s: firstSigned(kept.map((r) => ({ unit: r.unit, signed: r.signed ?? r.signedHere }))),
          now_s: nowMs() / 1000,
        },
        `run ${run.id}`,
      );
      const signed = run.signed ?? run.signedHere;
      const made: Run = {
        ...found,
        gates: signed ? [] : found.gates,
        id: run.id,
        job: id,
        unit: run.unit,
        signed,
        signedHere: run.signed === null && run.signedHere !== null,
        refusal: run.refusal,
        refusedAt: run.refusedAt ?? null,
        waiting,
      };
      reckoned.current.set(run.id, { of, document, run: made });
      return made;
    });
    let again: ReturnType<typeof setTimeout> | undefined;
    void Promise.allSettled(now).then((all) => {
      if (old) return;
      // A run that nobody could reckon just now stays as it was, and is asked for once more: nobody at a unit loses the step.
      setRuns((before) =>
        all.flatMap((r, n) => (r.status === "fulfilled" ? [r.value] : (before ?? NO_RUNS).filter((b) => b.id === kept[n]?.id))),
      );
      if (all.some((r) => r.status === "rejected" && kept.length > 0)) again = setTimeout(() => setTries((n) => n + 1), AGAIN_MS);
    });
    return () => {
      old = true;
      clearTimeout(again);
    };
  }, [kept, records, document, id, tries]);

  useEffect(() => {
    if (!entries) return;
    let old = false;
    // Whoever types waits for the plan alone: what the log says of it comes once the keys rest.
    const timer = setTimeout(
      () =>
        void ask("running", { document, entries: countedOf(entries), weather }, `running ${id}`).then(
          (found) => old || setRunning(found),
          (problem: unknown) => {
            if (!(problem instanceof Stale)) setRunning(null);
          },
        ),
      logAsked.current ? RESTED_MS : 0,
    );
    logAsked.current = true;
    return () => {
      old = true;
      clearTimeout(timer);
    };
  }, [entries, document, weather, id]);
  useEffect(() => {
    if (!reckonedRuns) return;
    let old = false;
    let again: ReturnType<typeof setTimeout> | undefined;
    // Where the machines stand can wait until the taps rest; the next step cannot.
    const held = heldOf(reckonedRuns);
    const timer = setTimeout(() => {
      ask("commissioning", { document, runs: held }, `commissioning ${id}`).then(
        (found) => old || setCommissioned(found),
        () => {
          if (!old) again = setTimeout(() => setTries((n) => n + 1), AGAIN_MS);
        },
      );
    }, RESTED_MS);
    return () => {
      old = true;
      clearTimeout(timer);
      clearTimeout(again);
    };
  }, [reckonedRuns, document, id]);
  const first = handed === null;
  useEffect(() => {
    if (!reckonedRuns || !records) return;
    let old = false;
    // Whoever types must not wait for it: it is asked for once all rests, the first time as soon as the rest is known.
    const timer = setTimeout(
      () =>
        void ask(
          "open",
          {
            document,
            runs: heldOf(reckonedRuns),
            entries: firstAnd(records, TESTED_OR_SEEN),
            signed_s: firstSigned(reckonedRuns),
            now_s: nowMs() / 1000,
          },
          `open ${id}`,
        ).then(
          (found) => old || setHanded(found),
          () => undefined,
        ),
      first ? RESTED_MS : LONG_RESTED_MS,
    );
    return () => {
      old = true;
      clearTimeout(timer);
    };
  }, [reckonedRuns, records, document, id, first]);
  const lines = useMemo(() => [commissioned, running, handed].flatMap((a) => a?.line ?? []), [commissioned, running, handed]);
  return {
    runs,
    entries: entries ?? NO_ENTRIES,
    weather,
    running,
    machines: commissioned?.machines ?? NO_MACHINES,
    open: handed?.items ?? null,
    lines,
    isKnown: commissioned !== null,
  };
}

/** The forecast kept for a job; the same one as long as nothing newer comes, whatever else of the job changes. */
function useWeather(id: string): Forecast | null {
  const { device } = useSurroundings();
  const found = useLiveQuery(() => device.db.jobs.get(id).then((job) => job?.weather ?? null), [device, id]) ?? null;
  const [weather, setWeather] = useState(found);
  if (found?.issued_at !== weather?.issued_at || found?.hours.length !== weather?.hours.length) setWeather(found);
  return weather;
}

// What the safety tests of a machine go by, beside the first line of the log.
const TESTED = new Set(["safety_test", "changed_over", "undone"]);
// And what somebody saw, smelt or measured beside it.
const TESTED_OR_SEEN = new Set([...TESTED, "flame", "frost", "smell", "co"]);

const entriesOf = (records: KeptRecord[]): Entry[] =>
  records.filter((r) => r.kind === "entry" && r.refusal === null).map((r) => r.body as Entry);

/** The first line of the log, and those of some kinds, in their order. */
function firstAnd(records: KeptRecord[], kinds: ReadonlySet<string>): Entry[] {
  const all = entriesOf(records);
  const first = all.find((e) => e.kind !== "kit");
  return all.filter((e) => e === first || kinds.has(e.kind));
}

/** By machine the moment of its first sign-off, in s since 1970. */
export function firstSigned(runs: { unit: string; signed: { at: string } | null }[]): Record<string, number> {
  const found: Record<string, number> = {};
  for (const { unit, signed } of runs) if (signed) found[unit] = Math.min(found[unit] ?? Infinity, Date.parse(signed.at) / 1000);
  return found;
}

/** The runs as the core is told of them, oldest first. */
const heldOf = (runs: Run[]) =>
  [...runs].reverse().map((r) => ({
    id: r.id,
    unit: r.unit,
    procedure: r.procedure,
    signed: r.signed !== null,
    gates: r.gates.map((g) => g.code),
    signed_s: r.signed ? Date.parse(r.signed.at) / 1000 : null,
  }));

const SETTLED_MS = 250;
const AGAIN_MS = 1500;
const RESTED_MS = 400;
const LONG_RESTED_MS = 2000;
const NO_ENTRIES: LoggedEntry[] = [];
const NO_RUNS: Run[] = [];
const NO_MACHINES: MachineState[] = [];

/** The log entries among the records; the same list as long as they are the same, whatever else is recorded. */
function useEntriesOf(records: KeptRecord[] | undefined): LoggedEntry[] | null {
  const last = useRef<{ of: string; entries: LoggedEntry[] } | null>(null);
  return useMemo(() => {
    if (!records) return null;
    const own = records.filter((r) => r.kind === "entry");
    const of = own.map((r) => `${r.id}${r.sent}${r.refusal ? "x" : ""}`).join();
    if (last.current?.of !== of)
      last.current = {
        of,
        entries: own.map((r): LoggedEntry => ({ ...(r.body as Entry), sent: r.sent === 1, refusal: r.refusal })),
      };
    return last.current.entries;
  }, [records]);
}

/** What was logged as it goes to the core: without what the server refused, and without what this device knows of each. */
export const countedOf = (entries: LoggedEntry[]): Entry[] =>
  entries.filter((e) => e.refusal === null).map(({ sent: _sent, refusal: _refusal, ...entry }) => entry);

/** The document once nobody has typed for a moment: runs and log need not follow every key. */
function useSettled(document: Document): Document {
  const [settled, setSettled] = useState(document);
  useEffect(() => {
    const timer = setTimeout(setSettled, SETTLED_MS, document);
    return () => clearTimeout(timer);
  }, [document]);
  return settled;
}
