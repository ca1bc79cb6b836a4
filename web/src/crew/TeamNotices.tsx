// Teams that ask this person to join, and the question in which of several they work: asked on every page until it is answered.
import { useState } from "react";
import { Problem, answer, api } from "../api/client";
import { Button, Message } from "../ui/controls";
import { useSurroundings } from "../app/context";

const AS = { lead: "a lead", technician: "a technician", guest: "a guest" } as const;

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
        <Message title="In which team do you work now?">
          <p>You belong to several. What you make from now on goes to the team you choose.</p>
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
        <Message key={a.team_id} title={`${a.by} asks you to join ${a.team} as ${AS[a.role]}`}>
          <p>Nothing changes before you say yes, and the team you work in stays the one you have chosen.</p>
          <p className="flex flex-wrap gap-2 pt-2">
            <Button data-testid="join-team" look="act" onClick={() => void join(a.team_id, true)}>
              Join {a.team}
            </Button>
            <Button onClick={() => void join(a.team_id, false)}>Decline</Button>
          </p>
        </Message>
      ))}
    </div>
  );
}
