import { useEffect, useState } from "react";
import type { Figure, Plan } from "../api/client";
import { planOf } from "../engine/ask";
import { useJob, useJobStore } from "../job/context";
import { type Document, type Json, at, put } from "../job/document";
import { type Difference, type Side, compare, merged } from "../job/merge";
import { specAt } from "../job/schema";
import type { Theirs } from "../outbox/db";
import { Button } from "../ui/controls";
import { writeTyped } from "../ui/JobField";
import { useQuantities, useSurroundings } from "./context";

const MOST_EFFECTS = 12;

/** Two versions of one job, field by field, with what each does to the plan. Neither is lost until every field is picked. */
export function ConflictPanel({ theirs }: { theirs: Theirs }) {
  const store = useJobStore();
  const { document, base } = useJob();
  const rows = compare(base, document, theirs.document);
  const [picked, setPicked] = useState<Record<string, Side>>({});
  const picks = Object.fromEntries(
    rows.flatMap((r): [string, Side][] => {
      const side = picked[r.path] ?? (r.by === "both" ? null : r.by);
      return side ? [[r.path, side]] : [];
    }),
  );
  const open = rows.filter((r) => !picks[r.path]).length;
  const all = (side: Side) => Object.fromEntries(rows.map((r) => [r.path, side]));
  const settle = (chosen: Record<string, Side>) => void store.settle(merged(document, theirs.document, chosen));
  return (
    <section
      data-testid="conflict"
      role="alert"
      aria-label="Two versions"
      className="border-b-[1.5px] border-frame bg-ember-wash px-5 py-3"
    >
      <h2 className="text-base font-bold">{theirs.author} saved this job in between</h2>
      <p>
        Nothing is lost: both versions are here. What only one of you changed is picked already; pick the rest. Readings and
        commissioning records of both are kept in any case.
      </p>
      <table className="my-2 w-full text-left text-small">
        <thead>
          <tr>
            <th scope="col">Where</th>
            <th scope="col">Yours</th>
            <th scope="col">Theirs</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, n) => (
            <Row
              key={row.path}
              row={row}
              mine={document}
              theirs={theirs.document}
              picks={picks}
              withEffect={n < MOST_EFFECTS}
              pick={(side) => setPicked({ ...picked, [row.path]: side })}
            />
          ))}
        </tbody>
      </table>
      <div className="flex flex-wrap items-center gap-3">
        <Button data-testid="keep-picked" look="act" disabled={open > 0} onClick={() => settle(picks)}>
          {open > 0 ? `${open} still to pick` : "Keep what is picked"}
        </Button>
        <Button data-testid="keep-mine" onClick={() => settle(all("mine"))}>
          Keep all of mine
        </Button>
        <Button onClick={() => settle(all("theirs"))}>Take all of theirs</Button>
      </div>
    </section>
  );
}

interface RowProps {
  row: Difference;
  mine: Document;
  theirs: Document;
  picks: Record<string, Side>;
  withEffect: boolean;
  pick: (side: Side) => void;
}

function Row({ row, mine, theirs, picks, withEffect, pick }: RowProps) {
  const { vocabulary } = useSurroundings();
  const q = useQuantities();
  const effects = useEffects(row, mine, theirs, picks, withEffect);
  const parent = row.path.replace(/\.[^.]*$/, "");
  const spec = specAt(vocabulary.job_schema, row.path, at(mine, `${parent}.kind`));
  const choice = (value: Json) => spec?.options?.find((o) => o.value === value)?.reads;
  const text = (value: Json | undefined) => {
    if (value === undefined) return "not there";
    if (typeof value === "object" && value !== null) return Array.isArray(value) ? `${value.length} entries` : "changed";
    return choice(value) ?? ((spec ? writeTyped(value, spec, q) : String(value)) || "—");
  };
  const side = (name: Side, value: Json | undefined) => (
    <td className="py-1 align-top">
      <label className="flex items-start gap-2">
        <input
          type="radio"
          name={row.path}
          checked={picks[row.path] === name}
          onChange={() => pick(name)}
          className="mt-0.5 accent-ember"
        />
        <span>
          <span className="sr-only">{name === "mine" ? "Yours: " : "Theirs: "}</span>
          <span className="font-medium">{text(value)}</span>
          {effects[name].map((e) => (
            <span key={e} className="block text-muted">
              {e}
            </span>
          ))}
        </span>
      </label>
    </td>
  );
  return (
    <tr className="border-t border-rule">
      <th scope="row" className="py-1 align-top font-normal">
        {spec?.title || row.path} <span className="text-muted">{row.path}</span>
        {row.by === "both" ? <span className="block font-medium text-ember-ink">both changed it</span> : null}
      </th>
      {side("mine", row.mine)}
      {side("theirs", row.theirs)}
    </tr>
  );
}

type Effects = Record<Side, string[]>;
const NONE: Effects = { mine: [], theirs: [] };

/** What one field does to the plan, taken either way, all else as picked: the headline figures that come out otherwise. */
function useEffects(row: Difference, mine: Document, theirs: Document, picks: Record<string, Side>, wanted: boolean): Effects {
  const q = useQuantities();
  const [effects, setEffects] = useState(NONE);
  const others = JSON.stringify(picks);
  useEffect(() => {
    if (!wanted) return;
    let old = false;
    const rest = merged(mine, theirs, JSON.parse(others) as Record<string, Side>);
    const plans = [row.mine, row.theirs].map((value) => planOf(put(rest, row.path, value ?? null)));
    Promise.all(plans).then(
      ([one, other]) => {
        if (!old && one && other)
          setEffects({
            mine: otherThan(one, other).map((f) => `${f.name} ${q.show(f.value, f.kind)}`),
            theirs: otherThan(other, one).map((f) => `${f.name} ${q.show(f.value, f.kind)}`),
          });
      },
      () => undefined,
    );
    return () => {
      old = true;
    };
  }, [row.path, mine, theirs, others, wanted, q.system]);
  return effects;
}

/** The headline figures of a plan that another plan gives otherwise, or not at all. */
export function otherThan(plan: Plan, other: Plan): Figure[] {
  const heads = (p: Plan) => p.stages.flatMap((s) => s.figures.filter((f) => s.headlines.includes(f.key)));
  const values = new Map(heads(other).map((f) => [f.key, f.value]));
  return heads(plan).filter((f) => values.get(f.key) !== f.value);
}
