// Signing out: what still waits on this device is told first, and for whom.
import { useState } from "react";
import { noteLeft } from "../outbox/storage";
import { saidOf } from "../outbox/WaitingLine";
import { Button } from "../ui/controls";
import { useSurroundings } from "./context";

export function SignOut() {
  const { device, person, signOut } = useSurroundings();
  const [waits, setWaits] = useState("");
  const leave = (left: string) => {
    noteLeft(person.id, person.name, left);
    signOut();
  };
  const ask = async () => {
    const pictures = await device.db.photos.where("sent").equals(0).count();
    const said = [
      saidOf(await device.db.outbox.toArray()),
      pictures > 0 ? `${pictures} ${pictures === 1 ? "picture" : "pictures"}` : "",
    ];
    const found = said.filter(Boolean).join(" and ");
    if (found === "") leave("");
    else setWaits(found);
  };
  if (waits === "")
    return (
      <Button data-testid="sign-out" look="quiet" onClick={() => void ask()}>
        Sign out
      </Button>
    );
  return (
    <span role="alert" data-testid="sign-out-waits" className="flex flex-wrap items-center gap-2 bg-ember-wash px-2 py-1">
      <span>
        Not sent yet: {waits}. All of it stays on this device, closed, and is sent once {person.name} signs in here again.
      </span>
      <Button data-testid="sign-out-all-the-same" onClick={() => leave(waits)}>
        Sign out
      </Button>
      <Button look="quiet" onClick={() => setWaits("")}>
        Stay
      </Button>
    </span>
  );
}
