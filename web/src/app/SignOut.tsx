// Signing out: what still waits on this device is told first, and for whom.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useLiveQuery } from "dexie-react-hooks";
import { useState } from "react";
import { noteLeft } from "../outbox/storage";
import { saidOf } from "../outbox/WaitingLine";
import { Button } from "../ui/controls";
import { useSurroundings } from "./context";

export function SignOut() {
  const { device, person, signOut } = useSurroundings();
  const [asking, ask] = useState(false);
  // Known before it is pressed: whoever signs out and closes the page at once is out.
  const look = async () => saidOf(await device.db.outbox.toArray(), await device.db.photos.where("sent").equals(0).count());
  const waits = useLiveQuery(look, [device]);
  const leave = () => {
    noteLeft(person.id, person.name, waits ?? "");
    signOut();
  };
  const asked = (said: string) => (said ? ask(true) : leave());
  // Pressed as soon as the page was there, it is looked up first.
  const pressed = () => (waits === undefined ? void look().then(asked) : asked(waits));
  if (!asking || !waits) return <Button data-testid="sign-out" look="quiet" onClick={pressed}>{t`Sign out`}</Button>;
  return (
    <span role="alert" data-testid="sign-out-waits" className="flex flex-wrap items-center gap-2 bg-ember-wash px-2 py-1">
      <span>
        <Trans>
          Not sent yet: {waits}. It stays on this device, and it is sent when {person.name} signs in here again.
        </Trans>
      </span>
      <Button data-testid="sign-out-all-the-same" onClick={leave}>{t`Sign out`}</Button>
      <Button look="quiet" onClick={() => ask(false)}>{t`Stay signed in`}</Button>
    </span>
  );
}
