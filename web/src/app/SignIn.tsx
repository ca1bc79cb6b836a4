import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Field, Input, Label } from "@headlessui/react";
import { useState } from "react";
import { Problem } from "../api/client";
import { leftBehind } from "../outbox/storage";
import { Button, Message } from "../ui/controls";
import { type Known, signIn } from "./who";

/** The door: name and password. */
export function SignIn({ onSignedIn, notice = "" }: { onSignedIn: (person: Known) => void; notice?: string }) {
  const [left] = useState(leftBehind);
  return (
    <main className="mx-auto grid min-h-dvh max-w-sm content-center gap-5 p-6">
      <h1 className="text-huge font-extrabold leading-none tracking-tight [font-stretch:118%]">
        <Trans>
          ofen<span className="text-ember">.</span>
        </Trans>
      </h1>
      <p className="text-ink-2">{t`Heaters and generators: sized, supplied, commissioned and logged, with the reason for every number.`}</p>
      {notice ? <Message title={notice} /> : null}
      {left.map((l) => (
        <p key={l.person} data-testid="left-behind" className="text-small text-ember-ink">
          <Trans>
            Waiting on this device for {l.name} to sign in: {l.waits}.
          </Trans>
        </p>
      ))}
      <SignInForm onSignedIn={onSignedIn} />
      <p className="text-small">
        <a href="/verify" className="underline">{t`Check a report or a job file`}</a>
      </p>
      <p className="border-t border-rule pt-3 text-small text-muted">{t`Ofen informs you. Follow the maker’s instructions, the local code and the authority, and leave licensed work to licensed people.`}</p>
    </main>
  );
}

/** Name and password; also where a session has ended in the middle of work. */
export function SignInForm({ onSignedIn }: { onSignedIn: (person: Known) => void }) {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const enter = async () => {
    setProblem(null);
    try {
      onSignedIn(await signIn(name, password));
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
  };
  const box = "mt-1 w-full rounded-sm border-[1.5px] border-edge bg-card px-3 py-2 text-base";
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void enter();
      }}
    >
      <Field>
        <Label className="font-medium">{t`Name`}</Label>
        <Input
          data-testid="name"
          className={box}
          autoComplete="username"
          value={name}
          onChange={(e) => setName(e.target.value)}
          required
        />
      </Field>
      <Field>
        <Label className="font-medium">{t`Password`}</Label>
        <Input
          data-testid="password"
          className={box}
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          required
        />
      </Field>
      {problem ? (
        <Message failed title={problem.message}>
          {problem.status === 0 ? t`You need signal to sign in.` : problem.detail}
        </Message>
      ) : null}
      <Button data-testid="sign-in" look="act" type="submit" large>{t`Sign in`}</Button>
    </form>
  );
}
