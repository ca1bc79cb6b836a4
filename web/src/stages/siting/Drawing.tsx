// The site drawn to its figures: typed distances move it, what is dragged changes its typed distances.
import { t } from "@lingui/core/macro";
import type { Row } from "../../api/client";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { useQuantities } from "../../app/context";
import { ask } from "../../engine/ask";
import { useJobStore, useStage } from "../../job/context";
import type { Json } from "../../job/document";
import type { JobStore } from "../../job/store";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { Button, StageLink } from "../../ui/controls";
import { saveFile } from "../../outbox/save";

type Point = [number, number];

export type Shape = Row<"drawing">;
type Kind = Shape["kind"];
/** A shape of one kind. */
type ShapeOf<K extends Kind> = Extract<Shape, { kind: K }>;
/** What stands somewhere and may be moved. */
type Standing = ShapeOf<"heater" | "generator" | "vessels">;

const STEP_M = 0.1;
const LARGE_STEP_M = 1;
const KEYS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
const MOST_HIGH = 560;
const ROOM = 26;

interface View {
  scale: number;
  x: (m: number) => number;
  y: (m: number) => number;
  width: number;
  height: number;
}

function viewOf(shapes: Shape[], width: number): View {
  const points = shapes.flatMap((s) => s.points);
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = Math.min((width - 2 * ROOM) / Math.max(right - left, 1), (MOST_HIGH - 2 * ROOM) / Math.max(high - low, 1));
  const drawnWidth = (right - left) * scale + 2 * ROOM;
  const indent = Math.max(0, (width - drawnWidth) / 2);
  return {
    scale,
    x: (m) => indent + ROOM + (m - left) * scale,
    y: (m) => ROOM + (high - m) * scale,
    width,
    height: (high - low) * scale + 2 * ROOM,
  };
}

const middle = (points: Point[]): Point => {
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2];
};

/** Shifts what is drawn, one shift after the other: each counts from where the one before put it, whatever is drawn by then. */
function useMoves(store: JobStore) {
  const [problem, setProblem] = useState("");
  const waiting = useRef<Map<string, Point>>(new Map());
  const isMoving = useRef(false);
  const shift = async () => {
    for (const [id, by] of waiting.current) {
      waiting.current.delete(id);
      try {
        const edits = await ask("moved", { document: store.get().document, id, by });
        store.editAll(edits as { path: string; value: Json }[]);
        setProblem("");
      } catch {
        setProblem(t`It was not moved. Type its distances instead.`);
      }
    }
  };
  const move = (id: string, by: Point) => {
    const [x, y] = waiting.current.get(id) ?? [0, 0];
    waiting.current.set(id, [x + by[0], y + by[1]]);
    if (isMoving.current) return;
    isMoving.current = true;
    void shift().finally(() => {
      isMoving.current = false;
    });
  };
  return { move, problem };
}

/** The drawing, to be read, dragged, moved by arrow keys, printed and saved. */
export function Drawing() {
  const stage = useStage("siting");
  const shapes = useDeferredValue(stage?.tables["drawing"] ?? []);
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(720);
  const store = useJobStore();
  const { move, problem } = useMoves(store);
  useEffect(() => {
    const seen = box.current;
    if (!seen) return;
    const watch = new ResizeObserver(() => setWidth(seen.clientWidth));
    watch.observe(seen);
    return () => watch.disconnect();
  }, []);
  return (
    <figure className="mb-3">
      <div ref={box} className="w-0 min-w-full overflow-hidden rounded-sm border-[1.5px] border-frame bg-card">
        {shapes.length === 0 ? (
          <div className="px-3 py-6 text-muted">
            {t`Enter length and width of the building or the first space. The site is then drawn.`}
            <StageLink to="need">{t`Enter the size of a space`}</StageLink>
          </div>
        ) : (
          <Plan shapes={shapes} width={width} onMove={store.role === "guest" ? null : move} />
        )}
      </div>
      {problem ? (
        <p role="alert" className="pt-1 text-small text-stop">
          {problem}
        </p>
      ) : null}
      <figcaption className="flex flex-wrap items-baseline justify-between gap-x-4 pt-1 text-small text-muted">
        <span>{t`Drawn to the distances entered. Drag a part, or choose it and use the arrow keys (Shift: 1 m). Moving a part changes its distances.`}</span>
        <span className="print:hidden">
          <Button
            data-testid="save-svg"
            look="quiet"
            onClick={() => saveDrawing(box.current)}
            disabled={shapes.length === 0}
          >{t`Save as SVG`}</Button>
          <Button
            look="quiet"
            onClick={() => window.location.assign(`/api/jobs/${store.id}/drawings/site.dxf`)}
            disabled={shapes.length === 0}
          >{t`Save as DXF`}</Button>
        </span>
      </figcaption>
      <Clear shapes={shapes} />
    </figure>
  );
}

/** The drawing as a file of its own: colours as they stand, no styles from outside. */
function saveDrawing(box: HTMLDivElement | null) {
  const drawn = box?.querySelector("svg");
  if (!drawn) return;
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const before = [...drawn.querySelectorAll<SVGElement>("*")];
  const kept = [
    "fill",
    "stroke",
    "stroke-width",
    "stroke-dasharray",
    "font-size",
    "font-weight",
    "font-family",
    "text-anchor",
    "opacity",
  ];
  for (const [n, element] of [...copy.querySelectorAll<SVGElement>("*")].entries()) {
    const seen = before[n];
    if (!seen) continue;
    const style = getComputedStyle(seen);
    for (const name of kept) element.setAttribute(name, style.getPropertyValue(name));
    element.removeAttribute("class");
  }
  copy.removeAttribute("class");
  copy.setAttribute("font-family", getComputedStyle(drawn).fontFamily);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  saveFile("site.svg", `<?xml version="1.0" encoding="UTF-8"?>\n${copy.outerHTML}`, "image/svg+xml");
}

interface PlanProps {
  shapes: Shape[];
  width: number;
  onMove: ((id: string, by: Point) => void) | null;
}

function Plan({ shapes, width, onMove }: PlanProps) {
  const q = useQuantities();
  const view = viewOf(shapes, width);
  const [drag, setDrag] = useState<{ id: string; from: Point; by: Point } | null>(null);
  const building = shapes.find((s) => s.kind === "building");
  const path = (points: Point[]) => points.map(([x, y]) => `${view.x(x).toFixed(1)},${view.y(y).toFixed(1)}`).join(" ");
  const shifted = (s: Shape) =>
    drag && (s.id === drag.id || ("of" in s && s.of === drag.id))
      ? `translate(${drag.by[0] * view.scale} ${-drag.by[1] * view.scale})`
      : undefined;
  const grab = (s: Shape) => (e: React.PointerEvent<SVGGElement>) => {
    if (!onMove) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    setDrag({ id: s.id, from: [e.clientX, e.clientY], by: [0, 0] });
  };
  const pull = (e: React.PointerEvent<SVGGElement>) => {
    if (drag) setDrag({ ...drag, by: [(e.clientX - drag.from[0]) / view.scale, -(e.clientY - drag.from[1]) / view.scale] });
  };
  const drop = (s: Shape) => () => {
    if (!drag) return;
    if (onMove && Math.hypot(...drag.by) > 0.02) onMove(s.id, drag.by);
    setDrag(null);
  };
  const step = (s: Shape) => (e: React.KeyboardEvent) => {
    const way = KEYS[e.key];
    if (!way || !onMove) return;
    e.preventDefault();
    const long = e.shiftKey ? LARGE_STEP_M : STEP_M;
    onMove(s.id, [way[0] * long, way[1] * long]);
  };
  const ordered = [...shapes].sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind));
  return (
    <svg
      data-testid="site-plan"
      width={view.width}
      height={view.height}
      viewBox={`0 0 ${view.width} ${view.height}`}
      role="group"
      aria-label={t`Plan of the site`}
      className="block select-none font-sans text-tiny"
    >
      <defs>
        <pattern id="within" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="7" height="7" className="fill-ember-wash" />
          <line x1="0" y1="0" x2="0" y2="7" className="stroke-stop" strokeWidth="1.6" />
        </pattern>
        <pattern id="canvas" width="6" height="6" patternUnits="userSpaceOnUse">
          <path d="M0 6 L6 0" className="stroke-hair" strokeWidth="1.2" />
        </pattern>
      </defs>
      {ordered.map((s) => {
        switch (s.kind) {
          case "building":
            return (
              <polygon
                key={s.id}
                points={path(s.points)}
                className="stroke-frame"
                strokeWidth={3}
                fill={s.skin === "canvas" ? "url(#canvas)" : "none"}
              />
            );
          case "plume":
            return (
              <g key={s.id} transform={shifted(s)}>
                <polygon points={path(s.points)} className="fill-note opacity-15" />
                <title>{s.name}</title>
              </g>
            );
          case "ring":
            return (
              <g key={s.id} transform={shifted(s)}>
                <polygon
                  points={path(s.points)}
                  className={s.inside.length > 0 ? "stroke-stop" : "stroke-edge"}
                  strokeWidth={1.2}
                  strokeDasharray="5 4"
                  fill={s.inside.length > 0 ? "url(#within)" : "none"}
                />
                <RingWords shape={s} view={view} />
              </g>
            );
          case "opening":
            return <OpeningLine key={s.id} shape={s} view={view} />;
          case "duct":
            return (
              <polygon
                key={s.id}
                points={path(s.points)}
                transform={shifted(s)}
                className="fill-ember-wash stroke-ember"
                strokeWidth={1}
              />
            );
          case "measure":
            return drag?.id === s.of ? null : <MeasureLine key={s.id} shape={s} view={view} told={q.show(s.value, "length")} />;
          default:
            return (
              <g
                key={s.id}
                transform={shifted(s)}
                tabIndex={onMove ? 0 : -1}
                role="button"
                aria-label={t`${s.name}: move with the arrow keys`}
                data-shape={s.id}
                onPointerDown={grab(s)}
                onPointerMove={pull}
                onPointerUp={drop(s)}
                onPointerCancel={() => setDrag(null)}
                onKeyDown={step(s)}
                className={`${onMove ? "cursor-grab" : ""} touch-none`}
              >
                <polygon
                  points={path(s.points)}
                  className={`stroke-ink ${s.kind === "vessels" ? "fill-gas" : s.kind === "heater" ? "fill-ember" : "fill-note"}`}
                  strokeWidth={1.5}
                />
                <Toward shape={s} view={view} />
                <Named shape={s} view={view} />
              </g>
            );
        }
      })}
      {building ? <North shape={building} width={view.width} /> : null}
      <Scale view={view} />
    </svg>
  );
}

const ORDER: Kind[] = ["plume", "ring", "building", "opening", "duct", "measure", "heater", "generator", "vessels"];

/** How wide a ring is, and what stands inside it all the same; the list below says what it is for. */
function RingWords({ shape, view }: { shape: ShapeOf<"ring">; view: View }) {
  const q = useQuantities();
  const top = Math.max(...shape.points.map((p) => p[1]));
  const left = Math.min(...shape.points.filter((p) => p[1] > top - 1e-6).map((p) => p[0]));
  const { inside } = shape;
  return (
    <text
      x={view.x(left) + 3}
      y={view.y(top) - 3}
      className={`${HALO} ${inside.length > 0 ? "fill-stop font-semibold" : "fill-muted"}`}
      {...BEHIND}
    >
      {q.show(shape.limit, "length")}
      {inside.length > 0 ? t`: inside ${inside.join(", ")}` : ""}
    </text>
  );
}

// Words stand on lines and hatching: a rim of paper keeps them readable.
const HALO = "stroke-card";
const BEHIND = { strokeWidth: 3, paintOrder: "stroke", strokeLinejoin: "round" } as const;

/** Every ring in words: what must stay clear, how far, and what stands there. */
function Clear({ shapes }: { shapes: Shape[] }) {
  const q = useQuantities();
  const rings = shapes.filter((s) => s.kind === "ring");
  if (rings.length === 0) return null;
  return (
    <CaptionedTable
      caption={t`Keep clear`}
      small
      heads={[{ word: t`Around` }, { word: t`Distance to`, right: true }, { word: t`What is inside it`, className: "pl-4" }]}
    >
      {rings.map((r) => (
        <tr key={r.id} className="border-t border-hair">
          <th scope="row" className="py-0.5 pr-2 font-medium">
            {r.name}
          </th>
          <td className="text-right">{q.show(r.limit, "length")}</td>
          <td className={`pl-4 ${r.inside.length > 0 ? "font-semibold text-stop" : "text-muted"}`}>
            {r.inside.join(", ") || t`nothing`}
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

/** Which way its front or its exhaust points. */
function Toward({ shape, view }: { shape: Standing; view: View }) {
  if (shape.kind === "vessels") return null;
  const [x, y] = [view.x(shape.mouth[0]), view.y(shape.mouth[1])];
  const [dx, dy] = [shape.toward[0] * 9, -shape.toward[1] * 9];
  return (
    <polygon
      points={`${x + dx},${y + dy} ${x - dy * 0.55},${y + dx * 0.55} ${x + dy * 0.55},${y - dx * 0.55}`}
      className="fill-ink"
    />
  );
}

function Named({ shape, view }: { shape: Standing; view: View }) {
  const [x] = middle(shape.points);
  const low = Math.min(...shape.points.map((p) => p[1]));
  return (
    <text x={view.x(x)} y={view.y(low) + 13} textAnchor="middle" className={`${HALO} fill-ink font-semibold`} {...BEHIND}>
      {shape.short}
    </text>
  );
}

function OpeningLine({ shape, view }: { shape: ShapeOf<"opening">; view: View }) {
  const [[x0, y0], [x1, y1]] = shape.points as [Point, Point];
  const [x, y] = [(view.x(x0) + view.x(x1)) / 2, (view.y(y0) + view.y(y1)) / 2];
  return (
    <g>
      <line x1={view.x(x0)} y1={view.y(y0)} x2={view.x(x1)} y2={view.y(y1)} className="stroke-card" strokeWidth={5} />
      <line
        x1={view.x(x0)}
        y1={view.y(y0)}
        x2={view.x(x1)}
        y2={view.y(y1)}
        className="stroke-gas"
        strokeWidth={2}
        strokeDasharray={shape.stands === "shut" ? undefined : "3 3"}
      />
      <text x={x} y={y - 6} textAnchor="middle" className={`${HALO} fill-gas`} {...BEHIND}>
        {shape.name}
        {shape.stands === "open" ? t` (open)` : shape.stands === "intake" ? t` (intake)` : ""}
      </text>
    </g>
  );
}

function MeasureLine({ shape, view, told }: { shape: ShapeOf<"measure">; view: View; told: string }) {
  const [[x0, y0], [x1, y1]] = shape.points as [Point, Point];
  const [x, y] = [(view.x(x0) + view.x(x1)) / 2, (view.y(y0) + view.y(y1)) / 2];
  const upright = Math.abs(view.x(x0) - view.x(x1)) < Math.abs(view.y(y0) - view.y(y1));
  return (
    <g>
      <line x1={view.x(x0)} y1={view.y(y0)} x2={view.x(x1)} y2={view.y(y1)} className="stroke-muted" strokeWidth={0.8} />
      <text
        x={upright ? x + 4 : x}
        y={upright ? y + 4 : y + 11}
        textAnchor={upright ? "start" : "middle"}
        className={`${HALO} fill-ink-2`}
        {...BEHIND}
      >
        {told}
      </text>
    </g>
  );
}

function North({ shape, width }: { shape: ShapeOf<"building">; width: number }) {
  const { north_deg: turn, wind_from_deg: wind } = shape;
  return (
    <>
      <g transform={`translate(${width - 24} 34) rotate(${turn})`}>
        <path d="M0 -14 L5 8 L0 4 L-5 8 Z" className="fill-ink" />
        <text y={-17} textAnchor="middle" className="fill-ink font-semibold">{t`N`}</text>
      </g>
      {wind === null ? null : (
        <g transform={`translate(${width - 58} 34)`}>
          <path
            d="M0 13 V-9 M-4 -3 L0 -11 L4 -3"
            transform={`rotate(${turn + wind + 180})`}
            className="fill-none stroke-note"
            strokeWidth={1.8}
          />
          <text y={27} textAnchor="middle" className="fill-note">{t`wind`}</text>
        </g>
      )}
    </>
  );
}

/** A bar of whole metres or feet. */
function Scale({ view }: { view: View }) {
  const q = useQuantities();
  const unit = q.split(1, "length").unit === "ft" ? 0.3048 : 1;
  const long = [1, 2, 5, 10, 20, 50].map((n) => n * unit).find((m) => m * view.scale > 50) ?? 50 * unit;
  return (
    <g transform={`translate(8 ${view.height - 8})`}>
      <path d={`M0 -5 V0 H${long * view.scale} V-5`} className="fill-none stroke-ink" strokeWidth={1.2} />
      <text x={long * view.scale + 5} y={0} className="fill-ink">
        {q.show(long, "length")}
      </text>
    </g>
  );
}
