// The people of the team: who may do what; a lead asks people to join, gives roles, takes people out; nobody is in without their own yes.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Problem, type Role, answer, api } from "../api/client";
import { nowIs } from "../api/lists";
import { Button, Message, Skeleton } from "../ui/controls";
import { AuditList } from "../jobs/AuditList";
import { useSurroundings } from "../app/context";

const rolesWords = (): { role: Role; reads: string; may: string }[] => [
  { role: "lead", reads: t`Lead`, may: t`also signs off, and manages machines, instruments and people` },
  { role: "technician", reads: t`Technician`, may: t`plans, commissions, logs` },
  { role: "guest", reads: t`Guest`, may: "reads" },
];

/** Everyone of the team, with what they may do. */
export function People() {
  const { person } = useSurroundings();
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [name, setName] = useState("");
  const [shown, setShown] = useState("");
  const key = ["people", person.team_id];
  const people = useQuery({ queryKey: key, queryFn: () => answer(api.GET("/api/people")) });
  const lead = person.role === "lead";
  const put = async (change: Promise<NonNullable<typeof people.data>>) => {
    setProblem(null);
    try {
      await nowIs(client, key, await change);
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
  };
  const give = (who: string, role: Role) =>
    put(answer(api.PUT("/api/people/{name}", { params: { path: { name: who } }, body: { role } })));
  return (
    <main className="mx-auto w-full max-w-3xl flex-1 px-5 py-5">
      <Link data-testid="to-jobs" to="/" className="text-muted underline">{t`Jobs`}</Link>
      <h1 className="text-big font-bold">
        <Trans>People of {person.team}</Trans>
      </h1>
      <ul className="list-disc pb-3 pl-5 text-small text-ink-2">
        {rolesWords().map((r) => (
          <li key={r.role}>
            {r.reads}: {r.may}
          </li>
        ))}
      </ul>
      {(problem ?? people.error) ? (
        <div className="pb-3">
          <Message failed title={(problem ?? people.error)?.message ?? ""}>
            {problem?.detail}
          </Message>
        </div>
      ) : null}
      {people.data ? (
        <ul className="border-t-[1.5px] border-frame">
          {people.data.map((p) => (
            <li key={p.name} className="flex flex-wrap items-center gap-3 border-b border-rule py-1.5">
              <span className="flex-1">
                <b>{p.full_name || p.name}</b>{" "}
                <span className="text-muted">{p.asked ? t`invited, has not answered yet` : p.name}</span>
              </span>
              {lead ? (
                <>
                  <Select
                    aria-label={t`Role of ${p.name}`}
                    value={p.role}
                    onChange={(e) => void give(p.name, e.target.value as Role)}
                    className="min-h-9 rounded-sm border border-edge bg-card px-1"
                  >
                    {rolesWords().map((r) => (
                      <option key={r.role} value={r.role}>
                        {r.reads}
                      </option>
                    ))}
                  </Select>
                  <Button
                    look="quiet"
                    onClick={() => void put(answer(api.DELETE("/api/people/{name}", { params: { path: { name: p.name } } })))}
                  >
                    {p.asked ? t`Withdraw invitation` : t`Remove from team`}
                    <span className="sr-only"> {p.name}</span>
                  </Button>
                </>
              ) : (
                <span>{rolesWords().find((r) => r.role === p.role)?.reads}</span>
              )}
              {lead && !p.asked ? (
                <Button look="quiet" onClick={() => setShown(shown === p.name ? "" : p.name)}>
                  {shown === p.name ? t`Hide history` : t`Show history`}
                  <span className="sr-only"> {p.name}</span>
                </Button>
              ) : null}
              {shown === p.name ? (
                <div className="w-full pb-2">
                  <AuditList of={{ person: p.name }} />
                </div>
              ) : null}
            </li>
          ))}
        </ul>
      ) : people.error ? null : (
        <Skeleton />
      )}
      {lead ? (
        <form
          className="flex items-end gap-3 pt-4"
          onSubmit={(e) => {
            e.preventDefault();
            void give(name.trim(), "technician").then(() => setName(""));
          }}
        >
          <label>
            <Trans>
              Sign-in name
              <input
                value={name}
                onChange={(e) => setName(e.target.value)}
                className="block min-h-9 rounded-sm border-[1.5px] border-edge bg-card px-2"
              />
            </Trans>
          </label>
          <Button type="submit" disabled={name.trim() === ""}>{t`Invite as technician`}</Button>
        </form>
      ) : null}
    </main>
  );
}
