import type { PathNode } from "../api/client";
import { useQuantities } from "../app/context";
import { height, marks } from "./scale";

interface StaircaseProps {
  /** The nodes from vessel to heater, in order. */
  way: PathNode[];
  /** Where each node stands across, in the same order. */
  across: number[];
  width: number;
  /** Pressures measured during commissioning, by node and place. */
  readings?: { node: string; pa: number; word: string }[];
}

const TALL = 124;
const HALF = 26;
const y = (pa: number) => TALL - 8 - height(pa) * (TALL - 20);

type Point = { x: number; pa: number } | null;

/** The points of a pressure line; null where the pressure is not known. */
export function stairPoints(way: PathNode[], across: number[], which: "running" | "standing"): Point[] {
  const points: Point[] = [];
  way.forEach((n, i) => {
    const x = across[i] ?? 0;
    if (n.kind === "space") return;
    const before = isSource(n) ? n[`${which}_out_pa`] : n[`${which}_in_pa`];
    const after = n[`${which}_out_pa`];
    const reach = n.kind === "regulator" ? 0 : HALF;
    points.push(before === null ? null : { x: x - reach, pa: before }, after === null ? null : { x: x + reach, pa: after });
  });
  return points;
}

function drawn(points: Point[]): string {
  let pen = "M";
  return points
    .map((p) => {
      if (!p) {
        pen = "M";
        return "";
      }
      const piece = `${pen}${p.x.toFixed(1)} ${y(p.pa).toFixed(1)}`;
      pen = "L";
      return piece;
    })
    .join(" ");
}

/** Why no pressure is drawn: the first of what it follows from that is not known. */
function waitsFor(way: PathNode[]): string {
  if (way.some((n) => n.kind === "tank")) return "Liquid fuel: head and suction are judged at each inlet, there is no gas pressure to draw.";
  const open = way.find((n) => n.kind !== "space" && n.running_out_pa === null && !(n.kind === "appliance" && n.running_in_pa !== null));
  return `The pressures wait for ${open ? `${open.name}: ${isSource(open) ? "what it holds in the coldest hour" : "its size or sheet"}` : "the path"}.`;
}

/** Pressure along the path: full load as a strong line, standing dashed, each heater's window as a band. */
export function Staircase({ way, across, width, readings = [] }: StaircaseProps) {
  const q = useQuantities();
  const pressure = (pa: number) => q.show(pa, pa > 10_000 ? "source_pressure" : "gas_pressure");
  // Both ends in the unit of the upper one: "350–14 bar" is no range.
  const range = (low: number, high: number) => {
    const kind = high > 10_000 ? "source_pressure" : "gas_pressure";
    return `${q.split(low, kind).number}–${q.show(high, kind)}`;
  };
  const told = way
    .map((n) => (n.kind === "space" || n.running_out_pa === null ? null : `${n.name} ${pressure(n.running_out_pa)}`))
    .filter(Boolean)
    .join(", ");
  if (told === "") return <p className="px-5 py-2 text-small text-muted">{waitsFor(way)}</p>;
  return (
    <svg width={width} height={TALL} role="img" aria-label={`Pressure at full load: ${told}`} className="block">
      {marks(q.system).map((m) => (
        <g key={m.pa}>
          <path d={`M0 ${y(m.pa)}H${width}`} className="stroke-hair" />
          <text x={width - 4} y={y(m.pa) - 3} textAnchor="end" className="fill-muted text-tiny">
            {m.text}
          </text>
        </g>
      ))}
      {way.map((n, i) => (n.window ? <Window key={n.id} x={across[i] ?? 0} low={n.window.low_pa} high={n.window.high_pa} words={`may take ${range(n.window.low_pa, n.window.high_pa)}`} /> : null))}
      <path d={drawn(stairPoints(way, across, "standing"))} fill="none" className="stroke-muted" strokeWidth="1.4" strokeDasharray="4 3" />
      <path d={drawn(stairPoints(way, across, "running"))} fill="none" className="stroke-ember" strokeWidth="2.4" strokeLinejoin="round" />
      {way.map((n, i) => (
        <Words key={n.id} node={n} x={across[i] ?? 0} pressure={pressure} />
      ))}
      {readings.map((r) => {
        const i = way.findIndex((n) => n.id === r.node);
        return i < 0 ? null : (
          <g key={`${r.node} ${r.word}`}>
            <circle cx={(across[i] ?? 0) + HALF + 6} cy={y(r.pa)} r="4" className="fill-ink stroke-card" strokeWidth="1.5">
              <title>{`${r.word}: ${pressure(r.pa)}`}</title>
            </circle>
          </g>
        );
      })}
    </svg>
  );
}

function Window({ x, low, high, words }: { x: number; low: number; high: number; words: string }) {
  return (
    <g>
      <rect x={x - HALF - 8} y={y(high)} width={2 * HALF + 16} height={y(low) - y(high)} className="fill-gas" opacity=".2" />
      <text x={x} y={y(low) + 12} textAnchor="middle" className="fill-gas text-tiny">
        {words}
      </text>
    </g>
  );
}

/** Where the gas comes from: it has a pressure at its outlet only. */
const isSource = (node: PathNode) => node.kind === "vessel" || node.kind === "meter";

/** The pressures worth a word: at the vessel, after each regulator, at the heater. */
function Words({ node, x, pressure }: { node: PathNode; x: number; pressure: (pa: number) => string }) {
  const { running_in_pa: before, running_out_pa: after, standing_out_pa: standing } = node;
  if (isSource(node))
    return (
      <>
        {standing === null ? null : (
          <text x={x - HALF} y={y(standing) - 4} className="fill-muted text-tiny">
            standing {pressure(standing)}
          </text>
        )}
        {after === null ? null : (
          <text x={x - HALF} y={y(after) + 14} className="fill-ember-ink text-tiny font-semibold">
            full load {pressure(after)}
          </text>
        )}
      </>
    );
  if (node.kind === "regulator" && after !== null)
    return (
      <text x={x + 6} y={y(after) + 14} className="fill-ember-ink text-tiny font-semibold">
        {pressure(after)}
      </text>
    );
  if (node.kind === "appliance" && before !== null)
    return (
      <text x={x - HALF - 4} y={y(before) + 13} className="fill-ember-ink text-tiny font-semibold">
        {pressure(before)}
      </text>
    );
  return null;
}
