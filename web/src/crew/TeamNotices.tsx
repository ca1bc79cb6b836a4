// Teams that ask this person to join, and the question in which of several they work: asked on every page until it is answered.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Problem, answer, api } from "../api/client";
import { Button, Message } from "../ui/controls";
import { useSurroundings } from "../app/context";

const roleWords = () => ({ lead: t`a lead`, technician: t`a technician`, guest: t`a guest` }) as const;

export function TeamNotices() {
  const { person, workIn, toldOfMe } = useSurroundings();
  const [problem, setProblem] = useState<Problem | null>(null);
  const join = async (team: number, yes: boolean) => {
    setProblem(null);
    try {
      toldOfMe(await answer(api.POST("/api/invitations/{team_id}", { params: { path: { team_id: team } }, body: { yes } })));
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
  };
  const asked = person.asked_into ?? [];
  const mustChoose = person.team_id === null && person.teams.length > 1;
  if (asked.length === 0 && !mustChoose) return null;
  return (
    <div data-testid="team-notices" className="no-print grid gap-2 px-5 pt-3">
      {problem ? (
        <Message failed title={problem.message}>
          {problem.detail}
        </Message>
      ) : null}
      {mustChoose ? (
        <Message title={t`In which team do you work now?`}>
          <p>{t`You belong to more than one team. New jobs go to the team you choose.`}</p>
          <p className="flex flex-wrap gap-2 pt-2">
            {person.teams.map((t) => (
              <Button key={t.id} onClick={() => workIn(t.id)}>
                {t.name}
              </Button>
            ))}
          </p>
        </Message>
      ) : null}
      {asked.map((a) => (
        <Message key={a.team_id} title={t`${a.by} asks you to join ${a.team} as ${roleWords()[a.role]}`}>
          <p>{t`Nothing changes until you accept. You stay in the team you have chosen.`}</p>
          <p className="flex flex-wrap gap-2 pt-2">
            <Button data-testid="join-team" look="act" onClick={() => void join(a.team_id, true)}>
              <Trans>Join {a.team}</Trans>
            </Button>
            <Button onClick={() => void join(a.team_id, false)}>{t`Decline`}</Button>
          </p>
        </Message>
      ))}
    </div>
  );
}
