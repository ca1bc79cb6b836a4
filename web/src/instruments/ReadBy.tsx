// By which instrument a reading is taken: picked once, its live value seen settling, taken when it stands still. None is needed.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useState } from "react";
import type { Shown } from "../api/client";
import { useQuantities, useSurroundings } from "../app/context";
import { useDraft } from "../job/context";
import { Mark } from "../ui/Mark";
import { shownOf, useLive } from "./live";
import { type Source, nameOf, sourcesFor, useShelf } from "./shelf";

export interface By {
  source: Source | null;
  sources: Source[];
  pick: (key: string) => void;
  /** What its channel shows now; null where nothing comes by itself. */
  shown: Shown | null;
  /** Why nothing comes, "" where something does. */
  silent: string;
}

/** The instrument picked for a quantity at a machine, remembered from step to step. */
export function useReadBy(unit: string, quantity: string, step: string): By {
  const { vocabulary } = useSurroundings();
  const { instruments } = useShelf();
  const [key, pick] = useDraft(`run.by.${unit}.${quantity}${step === "manifold" ? ".manifold" : ""}`);
  const sources = sourcesFor(instruments, vocabulary.instrument_kinds, quantity, unit);
  const source = sources.find((s) => s.key === key) ?? null;
  const { live, silent } = useLive(source?.channel !== null && source !== null);
  const shown = source?.channel ? shownOf(live, source.instrument.key, source.channel.id) : null;
  const words = !source?.channel
    ? ""
    : silent
      ? t`No signal: the instrument sends nothing here. Type the reading.`
      : live && !live.alive
        ? t`No instrument is connected now. Type the reading.`
        : "";
  return { source, sources, pick, shown, silent: words };
}

const label = (s: Source) => `${nameOf(s.instrument)}${s.channel ? ` · ${s.channel.id}` : t`, read and typed`}`;

interface ReadBySelectProps {
  /** The key of the one picked, "" none. */
  picked: string;
  pick: (key: string) => void;
  options: { key: string; reads: string }[];
}

/** The one box in which an instrument is picked. */
export function ReadBySelect({ picked, pick, options }: ReadBySelectProps) {
  return (
    <label className="grid grid-cols-[auto_1fr] items-center gap-2 text-body">
      <Trans>
        Instrument
        <select
          data-testid="read-by"
          aria-label={t`Instrument`}
          value={picked}
          onChange={(e) => pick(e.target.value)}
          className="min-h-12 w-full min-w-0 rounded-sm border-[1.5px] border-edge bg-card px-2"
        >
          <option value="">none from the list</option>
          {options.map((o) => (
            <option key={o.key} value={o.key}>
              {o.reads}
            </option>
          ))}
        </select>
      </Trans>
    </label>
  );
}

/** The instruments to pick from, and what of the one picked is overdue. */
export function PickInstrument({ by }: { by: By }) {
  if (by.sources.length === 0) return null;
  return (
    <div className="pb-2">
      <ReadBySelect
        picked={by.source?.key ?? ""}
        pick={by.pick}
        options={by.sources.map((s) => ({ key: s.key, reads: label(s) }))}
      />
      {by.source && by.source.instrument.overdue.length > 0 ? (
        <p className="flex gap-2 pt-1 text-body">
          <Trans>
            <Mark level="caution" size={18} /> Overdue: {by.source.instrument.overdue.join("; ")}.
          </Trans>
        </p>
      ) : null}
    </div>
  );
}

interface LiveValueProps {
  by: By;
  quantity: string;
}

/** The live value, settling or standing still; or why it cannot be taken. */
export function LiveValue({ by, quantity }: LiveValueProps) {
  const q = useQuantities();
  const { shown } = by;
  if (!by.source?.channel) return null;
  if (by.silent || !shown || shown.value === null)
    return (
      <p role="alert" className="flex gap-2 pb-2 text-stop">
        <Mark level="stop" size={20} silent /> {by.silent || shown?.say || t`Waiting for its first value.`}
      </p>
    );
  const value = q.split(shown.value, quantity, 4);
  return (
    <p
      data-testid="live-value"
      aria-label={t`Live value`}
      data-still={shown.still}
      className={`mb-2 border-l-4 bg-card px-3 py-1.5 ${shown.still ? "border-good" : "border-edge"}`}
    >
      <b className="text-huge whitespace-nowrap tabular-nums">
        {value.number} <span className="text-lg font-semibold">{value.unit}</span>
      </b>
      <span className="block text-body text-muted">
        {shown.still ? t`steady, within ${q.show(shown.spread, quantity)}` : t`settling`}
      </span>
    </p>
  );
}

/** Take what is shown as soon as it stands still: ask, and it is done by itself. */
export function useTaking(by: By, take: (value: number, ageS: number) => Promise<void>) {
  const [asked, ask] = useState(false);
  const { shown } = by;
  const ready = asked && shown?.still === true && shown.settled !== null;
  useEffect(() => {
    if (!ready || shown.settled === null) return;
    ask(false);
    void take(shown.settled, shown.age_s);
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- once for each time it was asked and stands still
  }, [ready]);
  return { asked, ask };
}
