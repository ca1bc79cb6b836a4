import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Run } from "../../api/client";
import { useQuantities } from "../../app/context";
import { useJob } from "../../job/context";
import { Bar } from "./Bar";
import { isOver, sayOf } from "./said";

interface ProgressProps {
  run: Run;
  /** The step that is shown. */
  current: string | null;
  look: (id: string) => void;
}

/** Where on the path this step is, and which places are done. */
export function Progress({ run, current, look }: ProgressProps) {
  const q = useQuantities();
  const machine = useJob().plan?.machines.find((m) => m.id === run.unit);
  const set = machine?.kind === "generator";
  const places = [
    { node: "storage", word: t`Source` },
    { node: "regulator", word: t`Regulator` },
    { node: "line", word: t`Line` },
    { node: "appliance", word: set ? t`Set` : t`Heater` },
    { node: "space", word: set ? t`Loads` : t`Space` },
  ];
  const { steps } = run.procedure;
  const shown = places.filter((p) => steps.some((s) => s.node === p.node));
  const here = steps.find((s) => s.id === current)?.node;
  const doneAt = (node: string) => steps.every((s, n) => s.node !== node || isOver(run.state.steps[n]));
  const done = run.state.steps.filter((s) => isOver(s)).length;
  return (
    <nav aria-label={t`Steps`} className="border-b-[1.5px] border-frame bg-sheet px-4 py-2">
      <ol className="flex">
        {shown.map((p, n) => {
          const held = heldAt(run, p.node);
          return (
            <li key={p.node} data-place={p.node} className="relative flex min-w-0 flex-1 flex-col items-center gap-0.5">
              {n > 0 ? <Pipe stands={held?.stands} /> : null}
              <span
                className={`relative z-10 size-[22px] rounded-full ${p.node === here ? "border-4 border-ember bg-card" : doneAt(p.node) ? "border-2 border-good bg-good" : "border-2 border-dashed border-edge bg-card"}`}
              />
              <span className={`text-small ${p.node === here ? "font-bold text-ember-ink" : "text-ink-2"}`}>{p.word}</span>
              {n > 0 && held ? (
                <span
                  data-testid={`holds-${p.node}`}
                  data-stands={held.stands}
                  className={`text-small leading-none ${held.stands === "holds" ? "font-semibold text-gas" : "text-muted"}`}
                >
                  {held.word}
                </span>
              ) : null}
            </li>
          );
        })}
      </ol>
      <OpenNow run={run} />
      <Bar name={t`Steps done`} most={steps.length} value={done} />
      <label className="flex items-center gap-2 text-body text-muted">
        <span className="shrink-0">{t`Go to`}</span>
        <select
          data-testid="go-to"
          value={current ?? ""}
          onChange={(e) => look(e.target.value)}
          className="min-h-12 w-full rounded-sm border border-edge bg-card px-2 text-ink"
        >
          {current === null ? <option value="">{t`all steps done`}</option> : null}
          {steps.map((s, n) => (
            <option key={s.id} value={s.id} data-status={run.state.steps[n]?.status ?? "open"}>
              {n + 1}. {sayOf(s, q)(s.title)} ({statusWords()[run.state.steps[n]?.status ?? "open"]})
            </option>
          ))}
        </select>
      </label>
    </nav>
  );
}

type Stretch = Run["state"]["way"][number];

/** What the way holds up to a place: of several stretches that which holds something, else the first. */
function heldAt(run: Run, place: string): Stretch | undefined {
  const there = run.state.way.filter((s) => s.place === place && (s.holds !== "current" || place === "space"));
  return there.find((s) => s.stands === "holds") ?? there[0];
}

/** The way to a place: thick where it holds fuel or current, thin where it is shut again, broken where it never did, pale where nobody knows. */
function Pipe({ stands }: { stands: string | undefined }) {
  const look =
    stands === "holds"
      ? "top-2 h-1.5 bg-gas"
      : stands === "held"
        ? "top-2.5 h-0.5 bg-edge"
        : stands === "not_yet"
          ? "top-2.5 border-t-2 border-dashed border-edge"
          : "top-2.5 h-1 bg-rule";
  return <span aria-hidden="true" className={`absolute right-1/2 w-full ${look}`} />;
}

/** What is open, lit or on at the machine now, in one line. */
function OpenNow({ run }: { run: Run }) {
  if (run.state.way.length === 0) return null;
  const open = run.state.open_now.map((o) => `${o.name} ${o.stands}`);
  return (
    <p data-testid="open-now" className="pt-1 text-small text-ink-2">
      {open.length > 0 ? (
        <Trans>
          <b>Open now:</b> {open.join(" · ")}
        </Trans>
      ) : (
        t`Nothing is open or lit now.`
      )}
    </p>
  );
}

const statusWords = () => ({
  open: "open",
  holding: t`in progress`,
  failed: "failed",
  done: "done",
  skipped: t`skipped`,
  idle: t`not needed`,
  stale: t`to be repeated`,
});
