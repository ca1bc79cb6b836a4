import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useState } from "react";
import type { Figure, Plan } from "../api/client";
import { planOf } from "../engine/ask";
import { useJob, useJobStore } from "../job/context";
import { type Document, type Json, put } from "../job/document";
import { type Difference, type Side, compare, merged } from "../job/merge";
import type { Theirs } from "../outbox/db";
import { Button } from "../ui/controls";
import { useQuantities } from "../app/context";
import { useFieldWords } from "../app/useFieldWords";

const MOST_EFFECTS = 12;

/**
 * The fields that two have changed, each with what either value does to the plan. Nothing is lost until each is picked; what only
 * one of them changed is put together by itself.
 */
export function ConflictPanel({ theirs }: { theirs: Theirs }) {
  const store = useJobStore();
  const { document, base } = useJob();
  const words = useFieldWords();
  const all = compare(base, document, theirs.document);
  const rows = all.filter((r) => r.by === "both");
  const [picked, setPicked] = useState<Record<string, Side>>({});
  const picks = Object.fromEntries(
    all.flatMap((r): [string, Side][] => {
      const side = r.by === "both" ? picked[r.path] : r.by;
      return side ? [[r.path, side]] : [];
    }),
  );
  const open = rows.filter((r) => !picks[r.path]).length;
  const each = (side: Side) => ({ ...picks, ...Object.fromEntries(rows.map((r) => [r.path, side])) });
  const settle = (chosen: Record<string, Side>) => void store.settle(merged(document, theirs.document, chosen));
  const named = (side: Side) => rows.map((r) => `${words.label(r.path)}: ${words.value(r.path, r[side])}`).join(", ");
  return (
    <section
      data-testid="conflict"
      role="alert"
      aria-label={t`Two versions`}
      className="border-b-[1.5px] border-frame bg-ember-wash px-5 py-3"
    >
      <h2 className="text-base font-bold">
        <Trans>
          {theirs.author} has changed {rows.length === 1 ? t`a field` : t`${rows.length} fields`} that you changed too
        </Trans>
      </h2>
      <p>{t`Nothing is lost. Both values are shown here, so choose one. All other changes are merged, and the readings and commissioning records of both are kept.`}</p>
      <table className="my-2 w-full text-left text-small">
        <thead>
          <tr>
            <th scope="col">{t`Where`}</th>
            <th scope="col">{t`Yours`}</th>
            <th scope="col">{t`Theirs`}</th>
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
          {open > 0 ? t`${open} still to choose` : t`Save my choices`}
        </Button>
        <Button data-testid="keep-mine" onClick={() => settle(each("mine"))}>
          <Trans>
            Keep mine and undo what {theirs.author} entered ({named("theirs")})
          </Trans>
        </Button>
        <Button data-testid="take-theirs" onClick={() => settle(each("theirs"))}>
          <Trans>Take theirs and drop what you entered ({named("mine")})</Trans>
        </Button>
      </div>
      <p className="pt-1 text-small text-muted">
        <Trans>{theirs.author} sees what you undo when they open the job.</Trans>
      </p>
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
  const words = useFieldWords();
  const effects = useEffects(row, mine, theirs, picks, withEffect);
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
          <span className="sr-only">{name === "mine" ? t`Yours: ` : t`Theirs: `}</span>
          <span className="font-medium">{words.value(row.path, value)}</span>
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
        {words.label(row.path)} <span className="text-muted">{row.path}</span>
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
