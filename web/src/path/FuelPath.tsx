// The fuel path across the top of every stage: the parts on their pipe, the pressure staircase under them.
import { Select } from "@headlessui/react";
import { memo, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { PathNode } from "../api/client";
import { useQuantities } from "../app/context";
import { useLittleRoom } from "../app/media";
import { Mark } from "../ui/Mark";
import { NodeSign } from "./NodeSign";
import { Staircase } from "./Staircase";
import { inlets, wayTo } from "./way";

interface FuelPathProps {
  /** Address of the job, under which the stages lie. */
  base: string;
  path: PathNode[];
  /** Shown under a node instead of its detail: readings while commissioning, the latest while running. */
  notes?: Record<string, string>;
  readings?: { node: string; pa: number; word: string }[];
  /** Just the parts: no pressures, nothing to go to. */
  plain?: boolean;
}

const LEAST_APART = 96;
/** How wide a path may be on an upright sheet of paper. */
const PAPER = 690;
const NO_NOTES: Record<string, string> = {};
const NO_READINGS: NonNullable<FuelPathProps["readings"]> = [];

/** The line of small print under a node: what of it matters. */
function detailOf(node: PathNode, show: (value: number, kind: string) => string): string {
  const first = (name: string) => {
    const v = node.values[name];
    return v && typeof v !== "string" ? show(v.value, v.kind) : "";
  };
  if (node.kind === "meter") return node.running_out_pa === null ? "natural gas" : `${show(node.running_out_pa, "gas_pressure")} held`;
  if (node.kind === "vessel") return ["propane", first("liquid")].filter(Boolean).join(", ");
  if (node.kind === "tank") return [node.detail, first("liquid")].filter(Boolean).join(", ");
  if (node.kind === "regulator") return first("set") ? `set ${first("set")}` : "not chosen";
  if (node.kind === "line" || node.kind === "connector") return [first("length"), node.detail].filter(Boolean).join(", ") || "not chosen";
  if (node.kind === "appliance") return first("input") ? `${first("input")} in` : "no machine";
  if (node.kind === "space") return first("inside");
  return node.detail;
}

/** Drawn again only when the path, the readings or the notes change, not with every key. */
export const FuelPath = memo(function FuelPath({ base, path, notes = NO_NOTES, readings = NO_READINGS, plain = false }: FuelPathProps) {
  const box = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(1000);
  const [chosen, setChosen] = useState<string | undefined>();
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => entry && setRoom(entry.contentRect.width));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const hasLittleRoom = useLittleRoom();
  const [shown, setShown] = useState(false);
  const ends = inlets(path);
  const way = wayTo(path, (ends.find((e) => e.id === chosen) ?? ends[0])?.id);
  const width = Math.max(room, way.length * LEAST_APART);
  const apart = width / Math.max(1, way.length);
  const across = way.map((_, i) => apart * (i + 0.5));
  if (path.length === 0)
    return (
      <div ref={box} className="border-b-[1.5px] border-frame bg-sheet px-5 py-3 text-muted" data-fuel-path role="region" aria-label="Fuel path">
        No fuel path yet: no chosen machine burns the fuel of the supply and has an inlet there.
      </div>
    );
  return (
    <div ref={box} className={`relative overflow-x-auto print:overflow-visible border-b-[1.5px] border-frame bg-sheet ${ends.length > 1 || (hasLittleRoom && !plain) ? "pt-8" : "pt-2"}`} data-fuel-path tabIndex={0} role="region" aria-label="Fuel path">
      {hasLittleRoom && !plain ? (
        <button type="button" aria-expanded={shown} onClick={() => setShown(!shown)} className="no-print absolute left-5 top-1 z-10 text-small text-ember-ink underline">
          {shown ? "Hide the pressures" : "Show the pressures"}
        </button>
      ) : null}
      {ends.length > 1 ? (
        <label className="absolute right-2 top-1 z-10 text-small text-muted">
          Way to{" "}
          <Select value={chosen ?? ends[0]?.id} onChange={(e) => setChosen(e.target.value)} className="rounded-sm border border-edge bg-card px-1 text-ink">
            {ends.map((e) => (
              <option key={e.id} value={e.id}>
                {e.name}
              </option>
            ))}
          </Select>
        </label>
      ) : null}
      <div style={{ width, "--fit": Math.min(1, PAPER / width) } as React.CSSProperties} className="print:[zoom:var(--fit)]">
        <div className="relative">
          <div className="absolute top-[18px] h-1 bg-gas" style={{ left: across[0] ?? 0, width: Math.max(0, (across.at(-1) ?? 0) - (across[0] ?? 0)) }} />
          <ol className="relative flex">
            {way.map((n) => (
              <li key={n.id} style={{ width: apart }} className="min-w-0">
                <NodeButton node={n} base={plain ? null : base} note={notes[n.id]} />
              </li>
            ))}
          </ol>
        </div>
        {plain ? null : (
          <div className={hasLittleRoom && !shown ? "hidden print:block" : ""}>
            <Staircase way={way} across={across} width={width} readings={readings} />
          </div>
        )}
      </div>
    </div>
  );
});

function NodeButton({ node, base, note }: { node: PathNode; base: string | null; note: string | undefined }) {
  const navigate = useNavigate();
  const q = useQuantities();
  return (
    <button type="button" disabled={base === null} onClick={() => void navigate(`${base ?? ""}/${node.stage}#${node.id}`)} className="group w-full px-1 pb-1 text-center">
      <span className="relative mx-auto block h-8 w-11">
        <NodeSign kind={node.values["machine_kind"] === "generator" ? "generator" : node.kind} />
        {node.worst ? (
          <span className="absolute -right-2 -top-1 rounded-full bg-sheet">
            <Mark level={node.worst} size={15} />
          </span>
        ) : null}
      </span>
      <span className="block truncate pt-1 text-small font-semibold group-hover:underline">{node.name}</span>
      <span className={`block truncate text-tiny ${note ? "font-semibold text-ember-ink" : "text-muted"}`}>{note ?? detailOf(node, q.show)}</span>
    </button>
  );
}
