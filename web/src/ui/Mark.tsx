import { t } from "@lingui/core/macro";
import type { Level } from "../api/client";

export const levelWords = (): Record<Level, string> => ({
  stop: t`Stop`,
  caution: t`Caution`,
  not_checked: t`Not checked`,
  note: t`Note`,
  good: t`Good`,
});

interface MarkProps {
  /** Which verdict: each has a shape of its own. */
  level: Level;
  /** Width and height in CSS pixels. */
  size?: number;
  /** Whether the word stands beside it already; otherwise the mark says it. */
  silent?: boolean;
}

/** A verdict's shape: octagon, triangle, dashed circle, circle, tick. */
export function Mark({ level, size = 18, silent = false }: MarkProps) {
  const label = silent ? { "aria-hidden": true } : { role: "img", "aria-label": levelWords()[level] };
  return (
    <svg width={size} height={size} viewBox="0 0 18 18" className="shrink-0" {...label}>
      {SHAPES[level]}
    </svg>
  );
}

const SHAPES: Record<Level, React.ReactNode> = {
  stop: (
    <>
      <polygon points="16,11.9 11.9,16 6.1,16 2,11.9 2,6.1 6.1,2 11.9,2 16,6.1" className="fill-stop" />
      <path d="M5.4 9h7.2" className="stroke-on-mark" strokeWidth="2.2" strokeLinecap="round" />
    </>
  ),
  caution: (
    <>
      <path d="M9 1.4L17.1 14.6H0.9Z" className="fill-caution stroke-caution-ink" strokeWidth=".8" strokeLinejoin="round" />
      <path d="M9 5.6v5" className="stroke-caution-ink" strokeWidth="1.7" strokeLinecap="round" />
      <circle cx="9" cy="13" r=".95" className="fill-caution-ink" />
    </>
  ),
  not_checked: (
    <>
      <circle cx="9" cy="9" r="6.6" fill="none" className="stroke-note" strokeWidth="1.6" strokeDasharray="2.4 2" />
      <path d="M6.2 9h5.6" className="stroke-note" strokeWidth="1.7" strokeLinecap="round" />
    </>
  ),
  note: (
    <>
      <circle cx="9" cy="9" r="6.6" fill="none" className="stroke-note" strokeWidth="1.6" />
      <path d="M9 8.5v3.6" className="stroke-note" strokeWidth="1.7" strokeLinecap="round" />
      <circle cx="9" cy="5.7" r="1" className="fill-note" />
    </>
  ),
  good: (
    <>
      <circle cx="9" cy="9" r="6.6" className="fill-good" />
      <path
        d="M5.8 9l2.3 2.6 4.2-5"
        fill="none"
        className="stroke-on-mark"
        strokeWidth="1.8"
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </>
  ),
};
