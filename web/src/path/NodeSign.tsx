import type { Vocabulary } from "../api/client";
import { useSurroundings } from "../app/context";

type Stroke = Vocabulary["signs"][string][number];

const INKS: Record<Stroke["of"], string> = { frame: "stroke-frame", gas: "stroke-gas", space: "stroke-frame" };
const FILLS: Record<NonNullable<Stroke["fill"]>, string> = { card: "fill-card", ember: "fill-ember" };

interface NodeSignProps {
  /** Which of the core's signs. */
  kind: string;
}

/** The sign of a part as it lies on the pipe. */
export function NodeSign({ kind }: NodeSignProps) {
  const { signs } = useSurroundings().vocabulary;
  return (
    <svg width="44" height="32" viewBox="-22 -16 44 32" aria-hidden="true" strokeWidth="1.6" strokeLinejoin="round">
      {(signs[kind] ?? []).map((stroke, n) => (
        <StrokeOfSign key={n} stroke={stroke} />
      ))}
    </svg>
  );
}

function StrokeOfSign({ stroke }: { stroke: Stroke }) {
  const drawn = stroke.fill === "ember" ? "stroke-none" : INKS[stroke.of];
  const className = `${drawn} ${stroke.fill ? FILLS[stroke.fill] : "fill-none"}`;
  const dashes = stroke.of === "space" ? "3 2.5" : undefined;
  if (stroke.circle) return <circle cx={stroke.circle[0]} cy={stroke.circle[1]} r={stroke.circle[2]} className={className} />;
  const points = stroke.points.map((p) => p.join(",")).join(" ");
  return stroke.closed ? (
    <polygon points={points} className={className} strokeDasharray={dashes} />
  ) : (
    <polyline points={points} className={className} />
  );
}
