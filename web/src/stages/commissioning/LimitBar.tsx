import type { StepOf } from "./steps/screens";
import { useQuantities } from "../../app/context";

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
  const low = limit.low ?? 0;
  const high = limit.high ?? low * 2;
  const x = (v: number) => Math.min(WIDE - 8, Math.max(8, WIDE * (0.3 + (0.4 * (v - low)) / (high - low))));
  const out = value !== null && (value < low || value > high);
  const text = (v: number) => q.split(v, kind).number;
  const aim = limit.aim !== null && limit.aim - low > 0.15 * (high - low) && high - limit.aim > 0.15 * (high - low) ? limit.aim : null;
  return (
    <svg viewBox={`0 0 ${WIDE} 62`} className="my-1 w-full max-w-md" role="img" aria-label={`Allowed ${q.show(low, kind)} to ${q.show(high, kind)}`}>
      <path d={`M0 30H${WIDE}`} className="stroke-edge" strokeWidth="2" />
      <rect x={x(low)} y="18" width={x(high) - x(low)} height="24" className="fill-gas" opacity=".25" />
      <path d={`M${x(low)} 14v32M${x(high)} 14v32`} className="stroke-gas" strokeWidth="2.5" />
      {[low, high].map((v) => (
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
