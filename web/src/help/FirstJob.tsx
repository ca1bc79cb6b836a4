// Five small marks over the first job somebody creates: what to do now, where, and how far it is.
import { t } from "@lingui/core/macro";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { StageLine } from "../api/client";
import { Button } from "../ui/controls";
import { MARKS, type Mark, nextMark, sendAway, walksWith } from "./firstJob";

const says = (): Record<Mark, string> => ({
  need: t`Enter the spaces and temperatures, or the loads. The results appear beside them.`,
  equipment: t`Choose a machine from the list of results.`,
  supply: t`Enter what holds the fuel, and the length of each line.`,
  siting: t`Enter where the machine is, and how far it is from openings.`,
  commissioning: t`On site, start commissioning. It walks you through the first start.`,
});

interface FirstJobProps {
  /** What the rail says of each stage. */
  lines: readonly StageLine[];
}

/** The marks, where this is the first job; nothing once they were sent away or all are done. */
export function FirstJob({ lines }: FirstJobProps) {
  const { jobId = "" } = useParams();
  const [gone, setGone] = useState(() => !walksWith(jobId));
  const next = nextMark(lines);
  useEffect(() => {
    if (!gone && next === null) sendAway();
  }, [gone, next]);
  if (gone || next === null) return null;
  const place = MARKS.indexOf(next);
  return (
    <aside
      aria-label={t`Your first job`}
      data-testid="first-job"
      className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule bg-gas-wash px-5 py-1.5"
    >
      <ol className="flex gap-1.5" aria-label={t`Step ${place + 1} of ${MARKS.length}`}>
        {MARKS.map((mark, n) => (
          <li
            key={mark}
            aria-current={n === place ? "step" : undefined}
            className={`size-3 rounded-full border-[1.5px] ${n < place ? "border-good bg-good" : n === place ? "border-ember bg-ember" : "border-edge bg-card"}`}
          />
        ))}
      </ol>
      <p className="min-w-0 flex-1">{says()[next]}</p>
      <Link to={`/jobs/${jobId}/${next}`} className="font-medium text-ember-ink underline">
        {t`Go to this step`}
      </Link>
      <Button
        data-testid="send-away"
        look="quiet"
        onClick={() => {
          sendAway();
          setGone(true);
        }}
      >{t`Hide these hints`}</Button>
    </aside>
  );
}
