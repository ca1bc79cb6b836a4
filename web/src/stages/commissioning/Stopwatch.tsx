import { t } from "@lingui/core/macro";
import { Bar } from "./Bar";
import { stopwatch } from "./clock";

interface StopwatchProps {
  /** What is counted, for who does not see it. */
  name: string;
  running: boolean;
  /** Counted so far, in s. */
  since: number;
  floor: number;
  ceiling?: number | null;
}

/** A big stopwatch with its floor and ceiling. */
export function Stopwatch({ name, running, since, floor, ceiling = null }: StopwatchProps) {
  const over = ceiling !== null && since > ceiling;
  const enough = running && since >= floor;
  return (
    <div className="px-4 pb-4">
      <p
        role="timer"
        aria-label={name}
        className={`text-[4.5rem] font-bold leading-none ${over ? "text-stop" : enough ? "text-good" : ""}`}
      >
        {stopwatch(running ? since : 0)}
      </p>
      <p className="pt-1 text-muted">
        {floor > 0 ? t`at least ${stopwatch(floor)}` : t`as long as it takes`}
        {ceiling === null ? "" : t`, at most ${stopwatch(ceiling)}`}
      </p>
      {running && floor > 0 ? <Bar name={t`${name} so far`} most={floor} value={Math.min(since, floor)} /> : null}
    </div>
  );
}
