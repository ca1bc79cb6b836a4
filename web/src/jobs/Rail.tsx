// The rail of a job: its stages, each with what it says in a few words.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo } from "react";
import { Link, NavLink } from "react-router";
import type { Run, StageLine, StageName } from "../api/client";
import { Mark } from "../ui/Mark";
import { useQuantities } from "../app/context";

interface RailProps {
  base: string;
  words: { name: StageName; word: string }[];
  /** Where each stage stands, as far as it is known. */
  lines: StageLine[];
  runs: Run[];
  /** Whether there is a plan of the job at all; until then every stage is loading. */
  isPlanned: boolean;
}

/** The newest run of each machine; the runs come newest first. */
const newestRuns = (runs: Run[]): Run[] => [...new Map([...runs].reverse().map((r) => [r.unit, r])).values()];

const LOADING: Pick<StageLine, "say" | "level" | "values"> = { say: "loading", level: null, values: {} };

/** The line of Commissioning as this device knows it: a sign-off made here may still wait, or may have been refused. */
function onThisDevice(line: StageLine, runs: Run[]): StageLine {
  if (line.stage !== "commissioning") return line;
  const newest = newestRuns(runs);
  if (newest.some((r) => r.refusal)) return { ...line, say: t`sign-off refused`, level: "stop", values: {} };
  if (line.level === "good" && newest.some((r) => r.signedHere)) return { ...line, say: t`signed off, not sent`, values: {} };
  return line;
}

export const Rail = memo(function Rail({ base, words, lines, runs, isPlanned }: RailProps) {
  const q = useQuantities();
  return (
    <nav
      data-testid="stages"
      aria-label={t`Stages`}
      className="no-print fixed inset-x-0 bottom-0 z-20 border-t-[1.5px] border-frame bg-rail lg:static lg:border-r-[1.5px] lg:border-t-0 lg:pl-2 lg:pt-3"
    >
      <Link to="/" className="hidden pb-4 pl-1 text-[1.375rem] font-extrabold tracking-tight [font-stretch:118%] lg:block">
        <Trans>
          ofen<span className="text-ember">.</span>
        </Trans>
      </Link>
      <ol className="flex overflow-x-auto lg:sticky lg:top-3 lg:block">
        {words.map((s, n) => {
          const line = isPlanned ? lines.find((l) => l.stage === s.name) : undefined;
          const now = line ? onThisDevice(line, runs) : LOADING;
          return (
            <li key={s.name} className="relative min-w-0 flex-auto wrap-anywhere lg:pb-3">
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
                    {q.say(now.say, now.values)}
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
