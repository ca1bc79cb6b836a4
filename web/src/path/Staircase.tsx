import { t } from "@lingui/core/macro";
import type { Way } from "../api/client";
import { useQuantities, useSurroundings } from "../app/context";
import { height } from "./scale";

interface StaircaseProps {
  /** The way as the core draws it: across in slots, up from 0 to 1. */
  way: Way;
  /** How wide a slot is. */
  slot: number;
  /** Pressures measured during commissioning, by node. */
  readings?: { node: string; pa: number; word: string }[];
}

const TALL = 124;
const y = (height: number) => TALL - 8 - height * (TALL - 20);
/** How far from its point the words of each place stand, down. */
const BESIDE = { above: -4, below: 13, beside: 4 } as const;
const INKS = { running: "fill-ember-ink font-semibold", standing: "fill-muted", window: "fill-gas" } as const;

/** Pressure along the path: full load as a strong line, standing dashed, each inlet's window as a band. */
export function Staircase({ way, slot, readings = [] }: StaircaseProps) {
  const q = useQuantities();
  const { levels, stair_scale: scale } = useSurroundings().vocabulary;
  if (way.marks.length === 0) return <p className="px-5 py-2 text-small text-muted">{way.waits}</p>;
  const width = way.slots * slot;
  const words = way.marks.filter((m) => m.mark === "words");
  const told = words.filter((m) => m.role === "running").map((m) => q.say(m.say, m.values));
  const points = (line: [number, number][]) => line.map(([x, up]) => `${(x * slot).toFixed(1)},${y(up).toFixed(1)}`).join(" ");
  return (
    <svg width={width} height={TALL} role="img" aria-label={t`Pressure at full load: ${told.join(", ")}`} className="block">
      {(levels[q.system] ?? []).map((m) => (
        <g key={m.height}>
          <path d={`M0 ${y(m.height)}H${width}`} className="stroke-hair" />
          <text x={width - 4} y={y(m.height) - 3} textAnchor="end" className="fill-muted text-tiny">
            {m.words}
          </text>
        </g>
      ))}
      {way.marks.map((m, n) => {
        if (m.mark === "band") {
          const [[left, low], [right, high]] = m.points as [[number, number], [number, number]];
          return (
            <rect
              key={n}
              x={left * slot}
              y={y(high)}
              width={(right - left) * slot}
              height={y(low) - y(high)}
              className="fill-gas"
              opacity=".2"
            />
          );
        }
        if (m.mark === "words") return null;
        const strong = m.role === "running";
        return (
          <polyline
            key={n}
            points={points(m.points as [number, number][])}
            fill="none"
            className={strong ? "stroke-ember" : "stroke-muted"}
            strokeWidth={strong ? 2.4 : 1.4}
            strokeDasharray={strong ? undefined : "4 3"}
            strokeLinejoin="round"
          />
        );
      })}
      {words.map((m) => (
        <text
          key={`${m.role} ${m.at.join(" ")}`}
          x={m.at[0] * slot}
          y={y(m.at[1]) + BESIDE[m.place]}
          textAnchor={m.align}
          className={`text-tiny ${INKS[m.role]}`}
        >
          {q.say(m.say, m.values)}
        </text>
      ))}
      {readings.map((r) => {
        const at = way.nodes.findIndex((n) => n.id === r.node);
        return at < 0 ? null : (
          <circle
            key={`${r.node} ${r.word}`}
            cx={(at + 0.5) * slot}
            cy={y(height(r.pa, scale))}
            r="4"
            className="fill-ink stroke-card"
            strokeWidth="1.5"
          >
            <title>{`${r.word}: ${q.show(r.pa, r.pa > HIGH_PA ? "source_pressure" : "gas_pressure")}`}</title>
          </circle>
        );
      })}
    </svg>
  );
}

const HIGH_PA = 10_000;
