import { t } from "@lingui/core/macro";
import { useRef, useState } from "react";
import { Button } from "../../ui/controls";

/** Strokes of a hand: lists of points from 0 to 1000 each way. */
export type Strokes = [number, number][][];

const SIDE = 1000;
/** So far apart points are kept: a hand shakes less. */
const APART = 6;
const MOST_POINTS = 3500;

interface SignaturePadProps {
  strokes: Strokes;
  change: (strokes: Strokes) => void;
}

/** A field to write one's name in by finger, pen or mouse; who cannot types it, which is as good. */
export function SignaturePad({ strokes, change }: SignaturePadProps) {
  const box = useRef<SVGSVGElement>(null);
  const [drawing, setDrawing] = useState<Strokes[number] | null>(null);
  const at = (event: React.PointerEvent): [number, number] => {
    const { left, top, width, height } = (box.current ?? event.currentTarget).getBoundingClientRect();
    const held = (v: number) => Math.round(Math.min(SIDE, Math.max(0, v * SIDE)));
    return [held((event.clientX - left) / width), held((event.clientY - top) / height)];
  };
  const begin = (event: React.PointerEvent) => {
    if (strokes.flat().length > MOST_POINTS) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrawing([at(event)]);
  };
  const go = (event: React.PointerEvent) => {
    const last = drawing?.at(-1);
    if (!drawing || !last) return;
    const next = at(event);
    if (Math.hypot(next[0] - last[0], next[1] - last[1]) >= APART) setDrawing([...drawing, next]);
  };
  const end = () => {
    if (drawing && drawing.length > 1) change([...strokes, drawing]);
    setDrawing(null);
  };
  const shown = drawing ? [...strokes, drawing] : strokes;
  return (
    <div>
      <svg
        ref={box}
        viewBox={`0 0 ${SIDE} ${SIDE}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={strokes.length > 0 ? t`Handwritten name` : t`Field for a handwritten name`}
        className="block h-28 w-full touch-none rounded-sm border-[1.5px] border-edge bg-card"
        onPointerDown={begin}
        onPointerMove={go}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <path d="M40 760H960" className="stroke-hair" strokeWidth="2" vectorEffect="non-scaling-stroke" />
        {shown.map((stroke, n) => (
          <polyline
            key={n}
            points={stroke.map((p) => p.join(",")).join(" ")}
            fill="none"
            className="stroke-ink"
            strokeWidth="2.4"
            strokeLinecap="round"
            strokeLinejoin="round"
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      {strokes.length > 0 ? <Button look="quiet" onClick={() => change([])}>{t`Clear field`}</Button> : null}
    </div>
  );
}
