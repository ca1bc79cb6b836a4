// The fuel path across the top of every stage: the parts on their pipe, the pressure staircase under them.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { memo, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { PathNode, Way } from "../api/client";
import { useQuantities } from "../app/context";
import { useLittleRoom } from "../app/media";
import { Mark } from "../ui/Mark";
import { NodeSign } from "./NodeSign";
import { Staircase } from "./Staircase";

interface FuelPathProps {
  /** Address of the job, under which the stages lie. */
  base: string;
  path: PathNode[];
  /** The ways through it, as the core draws them: one to each inlet. */
  ways: Way[];
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

/** Drawn again only when the path, the readings or the notes change, not with every key. */
export const FuelPath = memo(function FuelPath({
  base,
  path,
  ways,
  notes = NO_NOTES,
  readings = NO_READINGS,
  plain = false,
}: FuelPathProps) {
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
  const way = ways.find((w) => w.inlet === chosen) ?? ways[0];
  const slots = way?.slots ?? 1;
  const width = Math.max(room, slots * LEAST_APART);
  const slot = width / Math.max(1, slots);
  if (!way)
    return (
      <div
        data-testid="fuel-path"
        ref={box}
        className="border-b-[1.5px] border-frame bg-sheet px-5 py-3 text-muted"
        data-fuel-path
        role="region"
        aria-label={t`Fuel path`}
      >{t`No fuel path yet. No chosen machine burns the fuel of this supply and has an inlet on it.`}</div>
    );
  return (
    <div
      data-testid="fuel-path"
      ref={box}
      className={`relative overflow-x-auto print:overflow-visible border-b-[1.5px] border-frame bg-sheet ${ways.length > 1 || (hasLittleRoom && !plain) ? "pt-8" : "pt-2"}`}
      data-fuel-path
      tabIndex={0}
      role="region"
      aria-label={t`Fuel path`}
    >
      {hasLittleRoom && !plain ? (
        <button
          data-testid="show-staircase"
          type="button"
          aria-expanded={shown}
          onClick={() => setShown(!shown)}
          className="no-print absolute left-5 top-1 z-10 text-small text-ember-ink underline"
        >
          {shown ? t`Hide the pressures` : t`Show the pressures`}
        </button>
      ) : null}
      {ways.length > 1 ? (
        <label className="absolute right-2 top-1 z-10 text-small text-muted">
          <Trans>
            Path to
            <Select
              data-testid="way"
              value={way.inlet}
              onChange={(e) => setChosen(e.target.value)}
              className="rounded-sm border border-edge bg-card px-1 text-ink"
            >
              {ways.map((w) => (
                <option key={w.inlet} value={w.inlet}>
                  {w.name}
                </option>
              ))}
            </Select>
          </Trans>
        </label>
      ) : null}
      <div style={{ width, "--fit": Math.min(1, PAPER / width) } as React.CSSProperties} className="print:[zoom:var(--fit)]">
        <div className="relative">
          <div
            className="absolute top-[18px] h-1 bg-gas"
            style={{ left: slot / 2, width: slot * Math.max(0, way.nodes.length - 1) }}
          />
          <ol className="relative flex">
            {way.nodes.map((n) => (
              <li key={n.id} style={{ width: slot }} className="min-w-0">
                <NodeButton drawn={n} node={path.find((p) => p.id === n.id)} base={plain ? null : base} note={notes[n.id]} />
              </li>
            ))}
          </ol>
        </div>
        {plain ? null : (
          <div className={hasLittleRoom && !shown ? "hidden print:block" : ""}>
            <Staircase way={way} slot={slot} readings={readings} />
          </div>
        )}
      </div>
    </div>
  );
});

interface NodeButtonProps {
  /** The part as it is drawn. */
  drawn: Way["nodes"][number];
  /** The part in the plan: its stage, its worst verdict. */
  node: PathNode | undefined;
  base: string | null;
  note: string | undefined;
}

function NodeButton({ drawn, node, base, note }: NodeButtonProps) {
  const navigate = useNavigate();
  const q = useQuantities();
  return (
    <button
      type="button"
      disabled={base === null}
      onClick={() => void navigate(`${base ?? ""}/${node?.stage ?? "supply"}#${drawn.id}`)}
      className="group w-full px-1 pb-1 text-center"
    >
      <span className="relative mx-auto block h-8 w-11">
        <NodeSign kind={drawn.sign} />
        {node?.worst ? (
          <span className="absolute -right-2 -top-1 rounded-full bg-sheet">
            <Mark level={node.worst} size={15} />
          </span>
        ) : null}
      </span>
      <span className="block truncate pt-1 text-small font-semibold group-hover:underline">{drawn.name}</span>
      <span className={`block truncate text-tiny ${note ? "font-semibold text-ember-ink" : "text-muted"}`}>
        {note ?? q.say(drawn.say, drawn.values)}
      </span>
    </button>
  );
}
