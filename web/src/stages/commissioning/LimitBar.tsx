import { t } from "@lingui/core/macro";
import type { StepOf } from "./steps/screens";
import { useQuantities } from "../../app/context";
import { beyond, within } from "./limits";

interface LimitBarProps {
  /** The limits of the step. */
  limit: NonNullable<StepOf<"read">["limit"]>;
  /** Kind of quantity read. */
  kind: string;
  /** The reading as typed so far. */
  value: number | null;
}

const WIDE = 358;

/** Where a reading stands between its limits. */
export function LimitBar({ limit, kind, value }: LimitBarProps) {
  const q = useQuantities();
  // With one limit the other side is open: drawn to the edge, without a number.
  const span = Math.max(Math.abs(limit.high ?? limit.low ?? 1), 1e-9);
  const low = limit.low ?? (limit.high ?? 0) - span;
  const high = limit.high ?? (limit.low ?? 0) + span;
  const ends = [limit.low, limit.high].filter((v): v is number => v !== null);
  const words = within(limit, kind, q) || "anything";
  const x = (v: number) => Math.min(WIDE - 8, Math.max(8, WIDE * (0.3 + (0.4 * (v - low)) / (high - low))));
  const out = beyond(value, limit) !== null;
  const text = (v: number) => q.split(v, kind).number;
  const aim =
    limit.aim !== null && limit.aim - low > 0.15 * (high - low) && high - limit.aim > 0.15 * (high - low) ? limit.aim : null;
  return (
    <svg viewBox={`0 0 ${WIDE} 62`} className="my-1 w-full max-w-md" role="img" aria-label={t`Allowed ${words}`}>
      <path d={`M0 30H${WIDE}`} className="stroke-edge" strokeWidth="2" />
      <rect
        x={limit.low === null ? 0 : x(low)}
        y="18"
        width={(limit.high === null ? WIDE : x(high)) - (limit.low === null ? 0 : x(low))}
        height="24"
        className="fill-gas"
        opacity=".25"
      />
      <path d={ends.map((v) => `M${x(v)} 14v32`).join("")} className="stroke-gas" strokeWidth="2.5" />
      {ends.map((v) => (
        <text key={v} x={x(v)} y="60" textAnchor="middle" className="fill-gas text-[13px]">
          {text(v)}
        </text>
      ))}
      {aim === null ? null : (
        <text x={x(aim)} y="60" textAnchor="middle" className="fill-gas text-[13px] font-bold">
          {text(aim)}
        </text>
      )}
      {value === null ? null : (
        <g className={out ? "fill-stop stroke-stop" : "fill-good stroke-good"}>
          <path d={`M${x(value)} 15l7-9h-14z`} stroke="none" />
          <path d={`M${x(value)} 14v28`} strokeWidth="3" />
        </g>
      )}
    </svg>
  );
}
