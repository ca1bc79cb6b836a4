// The rail of a job: its stages, each with what it says in a few words.
import { memo } from "react";
import { Link, NavLink } from "react-router";
import type { Level, MachineState, OpenThing, Run, Stage, StageName } from "../api/client";
import { Mark } from "../ui/Mark";
import { useQuantities } from "../app/context";

interface RailProps {
  base: string;
  words: { name: StageName; word: string }[];
  stages: Stage[];
  runs: Run[];
  machines: MachineState[];
  open: OpenThing[] | null;
  isKnown: boolean;
}

/** The newest run of each machine; the runs come newest first. */
const newestRuns = (runs: Run[]): Run[] => [...new Map([...runs].reverse().map((r) => [r.unit, r])).values()];

/** What the rail says under a stage's word. */
function wordsOf(
  name: StageName,
  stage: Stage | undefined,
  runs: Run[],
  machines: MachineState[],
  open: OpenThing[] | null,
  isKnown: boolean,
  show: (v: number, k: string) => string,
): { text: string; level: Level | null } {
  if (!isKnown && (name === "commissioning" || name === "handover")) return { text: "loading", level: null };
  const signed = machines.filter((m) => m.state === "signed");
  const stale = machines.filter((m) => m.stale.length > 0);
  if (name === "commissioning" && newestRuns(runs).some((r) => r.refusal)) return { text: "sign-off not taken", level: "stop" };
  if (name === "commissioning" && runs.length > 0 && machines.length > 0) {
    if (stale.length > 0) return { text: `${stale.reduce((n, m) => n + m.stale.length, 0)} to test again`, level: "stop" };
    const asked = machines.filter((m) => m.state !== "no_procedure");
    if (signed.length === asked.length)
      return {
        text: newestRuns(runs).some((r) => r.signedHere)
          ? "signed off here"
          : signed.length < machines.length
            ? `${signed.length} of ${machines.length} signed off`
            : "signed off",
        level: signed.length < machines.length ? "caution" : "good",
      };
    const open = machines.reduce((n, m) => n + m.gates.length, 0);
    return {
      text: machines.length > 1 ? `${signed.length} of ${machines.length} signed off` : `${open} gates open`,
      level: "caution",
    };
  }
  if (name === "commissioning" && runs.length === 0 && machines.length > 0 && stage?.worst !== "stop")
    return { text: "not begun", level: "not_checked" };
  // What is handed over is as good as the sign-off of every machine in it, and as nothing else that holds it up.
  if (name === "handover" && stale.length > 0) return { text: "sign-off is stale", level: "stop" };
  if (name === "handover" && open === null) return { text: "loading", level: null };
  const holding = open?.filter((o) => o.holds && !/^(begun|not_begun|stale)\./.test(o.key)).length ?? 0;
  if (name === "handover" && holding > 0)
    return { text: holding === 1 ? "1 item blocks it" : `${holding} items block it`, level: "stop" };
  if (name === "handover" && machines.length > 0 && signed.length < machines.length)
    return { text: "not all signed off", level: "caution" };
  if (!stage || stage.verdicts.length === 0) return { text: "—", level: null };
  const count = (level: Level) => stage.verdicts.filter((v) => v.level === level).length;
  const words = (
    [
      ["stop", "stop"],
      ["caution", "caution"],
      ["not_checked", "not checked"],
    ] as const
  )
    .map(([level, word]) => ({ n: count(level), word: level === "not_checked" ? word : count(level) === 1 ? word : `${word}s` }))
    .filter((w) => w.n > 0)
    .slice(0, 2)
    .map((w) => `${w.n} ${w.word}`);
  const headline = stage.figures.find((f) => f.key === stage.headlines[0]);
  return { text: words.join(", ") || (headline ? show(headline.value, headline.kind) : "good"), level: stage.worst };
}

export const Rail = memo(function Rail({ base, words, stages, runs, machines, open, isKnown }: RailProps) {
  const q = useQuantities();
  return (
    <nav
      data-testid="stages"
      aria-label="Stages"
      className="no-print fixed inset-x-0 bottom-0 z-20 border-t-[1.5px] border-frame bg-rail lg:static lg:border-r-[1.5px] lg:border-t-0 lg:pl-2 lg:pt-3"
    >
      <Link to="/" className="hidden pb-4 pl-1 text-[1.375rem] font-extrabold tracking-tight [font-stretch:118%] lg:block">
        ofen<span className="text-ember">.</span>
      </Link>
      <ol className="flex overflow-x-auto lg:sticky lg:top-3 lg:block">
        {words.map((s, n) => {
          const now = wordsOf(
            s.name,
            stages.find((x) => x.stage === s.name),
            runs,
            machines,
            open,
            isKnown,
            q.show,
          );
          return (
            <li key={s.name} className="relative flex-1 lg:pb-3">
              {n < words.length - 1 ? (
                <span
                  aria-hidden="true"
                  className={`absolute left-[1.15rem] top-6 hidden h-full w-1 lg:block ${now.level === "good" || now.level === "note" || now.level === "caution" ? "bg-gas" : "bg-rule"}`}
                />
              ) : null}
              <NavLink
                to={`${base}/${s.name}`}
                data-testid={`stage-${s.name}`}
                className={({ isActive }) =>
                  `relative flex min-h-13 [@media(max-height:559px)]:min-h-8 flex-col items-center justify-center px-0.5 text-center lg:flex-row lg:justify-start lg:gap-2.5 lg:py-1 lg:pl-2 lg:text-left ${isActive ? "bg-sheet font-bold shadow-none lg:border-l-4 lg:border-ember lg:pl-1" : ""}`
                }
              >
                <span className="relative hidden size-6 shrink-0 place-items-center rounded-full border-2 border-gas bg-card text-tiny font-bold lg:grid">
                  {n + 1}
                </span>
                <span className="min-w-0">
                  <span className="flex items-center justify-center gap-1 text-tiny lg:justify-start lg:text-[0.8125rem]">
                    {s.word}
                    {now.level === "stop" ? <Mark level="stop" size={13} /> : null}
                  </span>
                  <span
                    className={`hidden text-tiny font-normal lg:block ${now.level === "stop" ? "text-ember-ink" : "text-muted"}`}
                  >
                    {now.text}
                  </span>
                </span>
              </NavLink>
            </li>
          );
        })}
      </ol>
    </nav>
  );
});
