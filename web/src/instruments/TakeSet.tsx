// A set of readings by one instrument: what it shows is put into the boxes, each as soon as it stands still.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useSurroundings } from "../app/context";
import { useDraft } from "../job/context";
import { Button } from "../ui/controls";
import { useLive } from "./live";
import { ReadBySelect } from "./ReadBy";
import { isConnected, nameOf, useShelf } from "./shelf";
import type { Instrument, Shown } from "../api/client";

export interface ReadingSet {
  instruments: Instrument[];
  picked: Instrument | null;
  pick: (key: string) => void;
  /** What each of its channels shows, by the id of the value it stands for. */
  shown: Record<string, Shown>;
  silent: string;
}

/** The instruments that may read a set of values, and what the one picked shows of them. */
export function useTakeSet(unit: string, quantities: string[]): ReadingSet {
  const { vocabulary } = useSurroundings();
  const shelf = useShelf();
  const [key, pick] = useDraft(`run.by.${unit}.set`);
  const reads = new Set(vocabulary.instrument_kinds.filter((k) => quantities.some((q) => k.reads.includes(q))).map((k) => k.key));
  const instruments = shelf.instruments
    .filter((i) => reads.has(i.sheet.kind))
    .sort((a, b) => Number(b.key.includes(unit)) - Number(a.key.includes(unit)));
  const picked = instruments.find((i) => i.key === key) ?? null;
  const looks = picked !== null && isConnected(picked);
  const { live, silent } = useLive(looks);
  const shown = looks ? (live?.values[picked.key] ?? {}) : {};
  const words = !looks
    ? ""
    : silent
      ? t`No signal: the instruments send nothing here. Type the readings.`
      : live && !live.alive
        ? t`No instrument is connected now. Type the readings.`
        : (Object.values(shown).find((s) => s.fault)?.say ?? "");
  return { instruments, picked, pick, shown, silent: words };
}

interface TakeSetProps {
  set: ReadingSet;
  /** Put values into the boxes, by the id of each. */
  fill: (values: Record<string, number>) => void;
  /** The ids of the set. */
  wanted: string[];
}

/** Pick the instrument and take what it shows. */
export function TakeSet({ set, fill, wanted }: TakeSetProps) {
  if (set.instruments.length === 0) return null;
  const channels = set.picked ? set.picked.sheet.channels.filter((c) => wanted.includes(c.id)) : [];
  const ready = channels.flatMap((c) => {
    const s = set.shown[c.id];
    return s?.still && s.settled !== null ? [[c.id, s.settled] as const] : [];
  });
  return (
    <div className="px-4 pb-3">
      <ReadBySelect
        picked={set.picked?.key ?? ""}
        pick={set.pick}
        options={set.instruments.map((i) => ({ key: i.key, reads: nameOf(i) }))}
      />
      {set.silent ? (
        <p role="alert" className="pt-1 text-stop">
          {set.silent}
        </p>
      ) : null}
      {channels.length > 0 && !set.silent ? (
        <div className="flex items-center gap-3 pt-2">
          <Button
            data-testid="take-still"
            large
            disabled={ready.length === 0}
            onClick={() => fill(Object.fromEntries(ready))}
          >{t`Take steady readings`}</Button>
          <span role="status" className="text-body text-muted">
            <Trans>
              {ready.length} of {channels.length} steady
            </Trans>
          </span>
        </div>
      ) : null}
    </div>
  );
}
