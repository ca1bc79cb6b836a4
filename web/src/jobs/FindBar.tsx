// Looking for a job: words over names, places, machines, serials and people, and what narrows the list.
import { t } from "@lingui/core/macro";
import { Select } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { Button } from "../ui/controls";
import { useSurroundings } from "../app/context";

export interface Wanted {
  q: string;
  stage: "" | "need" | "equipment" | "supply" | "siting" | "commissioning" | "running" | "handover";
  state: "" | "needs" | "running" | "signed" | "unsigned";
  person: string;
  /** Saved or logged in so many days, 0 for any time. */
  days: number;
}

export const ANY: Wanted = { q: "", stage: "", state: "", person: "", days: 0 };
export const isAny = (wanted: Wanted) => (Object.keys(ANY) as (keyof Wanted)[]).every((k) => wanted[k] === ANY[k]);

const stages = () =>
  ({
    "": t`any next stage`,
    need: t`Need next`,
    equipment: t`Equipment next`,
    supply: t`Supply next`,
    siting: t`Siting next`,
    commissioning: t`Commissioning next`,
    running: t`Running next`,
    handover: t`Handover next`,
  }) as const;
const states = () =>
  ({
    "": t`any state`,
    needs: t`needs attention now`,
    running: t`is running`,
    signed: t`handed over`,
    unsigned: t`not handed over`,
  }) as const;
const times = () => ({ 0: t`any time`, 1: "today", 7: "last 7 days", 30: "last 30 days", 365: t`last year` }) as const;
const FIELD = "min-h-9 rounded-sm border-[1.5px] border-edge bg-card px-2";

interface FindBarProps {
  wanted: Wanted;
  change: (wanted: Wanted) => void;
  /** How many were found; null while nobody knows. */
  found: number | null;
  /** Without signal only words are looked for, in what this device knows. */
  silent: boolean;
}

export function FindBar({ wanted, change, found, silent }: FindBarProps) {
  const { person } = useSurroundings();
  const people = useQuery({
    queryKey: ["people", person.team_id],
    queryFn: () => answer(api.GET("/api/people")),
    enabled: !silent,
  });
  const put = (part: Partial<Wanted>) => change({ ...wanted, ...part });
  return (
    <form role="search" className="mb-4 flex flex-wrap items-center gap-2" onSubmit={(e) => e.preventDefault()}>
      <input
        data-testid="find"
        type="search"
        aria-label={t`Find a job`}
        placeholder={t`Name, place, machine, serial, person`}
        value={wanted.q}
        maxLength={200}
        onChange={(e) => put({ q: e.target.value })}
        className={`${FIELD} min-w-56 flex-1`}
      />
      {silent ? null : (
        <>
          <Select
            aria-label={t`Stage`}
            value={wanted.stage}
            onChange={(e) => put({ stage: e.target.value as Wanted["stage"] })}
            className={FIELD}
          >
            {Object.entries(stages()).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </Select>
          <Select
            data-testid="find-state"
            aria-label={t`State`}
            value={wanted.state}
            onChange={(e) => put({ state: e.target.value as Wanted["state"] })}
            className={FIELD}
          >
            {Object.entries(states()).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </Select>
          <Select aria-label={t`Person`} value={wanted.person} onChange={(e) => put({ person: e.target.value })} className={FIELD}>
            <option value="">{t`anybody`}</option>
            {(people.data ?? []).map((p) => (
              <option key={p.name} value={p.name}>
                {p.full_name || p.name}
              </option>
            ))}
          </Select>
          <Select
            aria-label={t`Time`}
            value={wanted.days}
            onChange={(e) => put({ days: Number(e.target.value) })}
            className={FIELD}
          >
            {Object.entries(times()).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </Select>
        </>
      )}
      {isAny(wanted) ? null : (
        <>
          <span role="status" className="text-small text-muted">
            {found === null ? t`looking` : found === 1 ? t`1 job` : t`${found} jobs`}
          </span>
          <Button data-testid="all-jobs" look="quiet" onClick={() => change(ANY)}>{t`All jobs`}</Button>
        </>
      )}
    </form>
  );
}
