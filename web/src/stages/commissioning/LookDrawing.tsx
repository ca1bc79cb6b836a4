import type { Vocabulary } from "../../api/client";
import { useSurroundings } from "../../app/context";

type Stroke = Vocabulary["look_drawings"][string][number];
type Tone = NonNullable<Stroke["fill"]>;

const FILLS: Record<Tone, string> = {
  caution: "fill-caution",
  card: "fill-card",
  ember: "fill-ember",
  gas: "fill-gas",
  good: "fill-good",
  ink: "fill-ink",
  "ink-2": "fill-ink-2",
  rule: "fill-rule",
  stop: "fill-stop",
};
const INKS: Record<Tone, string> = {
  caution: "stroke-caution",
  card: "stroke-card",
  ember: "stroke-ember",
  gas: "stroke-gas",
  good: "stroke-good",
  ink: "stroke-ink",
  "ink-2": "stroke-ink-2",
  rule: "stroke-rule",
  stop: "stroke-stop",
};

interface LookDrawingProps {
  /** The word of the drawing, from the table of looks. */
  drawing: string;
}

/** What a look looks like, small, as the core draws it. */
export function LookDrawing({ drawing }: LookDrawingProps) {
  const { look_drawings: drawings } = useSurroundings().vocabulary;
  return (
    <svg viewBox="0 0 48 48" width="48" height="48" aria-hidden="true" className="shrink-0 rounded-sm border border-rule bg-sheet">
      {(drawings[drawing] ?? []).map((s, n) => {
        const look = {
          className: `${s.fill ? FILLS[s.fill] : "fill-none"} ${s.ink ? INKS[s.ink] : ""}`,
          strokeWidth: s.width,
          strokeLinecap: "round",
          ...(s.dashes ? { strokeDasharray: s.dashes } : {}),
          ...(s.move ? { transform: s.move } : {}),
        } as const;
        return s.circle ? (
          <circle key={n} cx={s.circle[0]} cy={s.circle[1]} r={s.circle[2]} {...look} />
        ) : (
          <path key={n} d={s.d ?? ""} {...look} />
        );
      })}
    </svg>
  );
}
