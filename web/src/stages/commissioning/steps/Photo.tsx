import { t } from "@lingui/core/macro";
import { useState } from "react";
import { useSurroundings } from "../../../app/context";
import { isFull } from "../../../outbox/device";
import { pictureOf } from "../../../outbox/photos";
import { Act } from "../Act";
import { PhotoView } from "../PhotoView";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "photo";
export const word = () => t`Photo`;
export const told = (_step: StepOf<"photo">, state: StateOf<"photo">) => (state.photo ? "taken" : "");

export function Body({ run, step, state, recording, next, help, say }: BodyProps<"photo">) {
  const { device, sender } = useSurroundings();
  const [trouble, setTrouble] = useState("");
  const take = async (file: File | undefined) => {
    if (!file) return;
    setTrouble("");
    try {
      const photo = await device.keepPhoto(run.job, await pictureOf(file));
      await recording.record("photo_taken", { step: step.id, photo });
      sender.wake();
      next();
    } catch (problem) {
      if (isFull(problem)) setTrouble(t`This device has no room left. The picture was not saved.`);
      else if (problem instanceof Error) setTrouble(problem.message);
    }
  };
  return (
    <>
      <div className="px-4 pb-4">
        {state.photo ? <PhotoView job={run.job} photo={state.photo} shows={say(step.title)} /> : null}
        {trouble ? (
          <p role="alert" className="pt-2 text-stop">
            {trouble}
          </p>
        ) : null}
      </div>
      <Act help={help}>
        <label className="grid min-h-14 cursor-pointer place-items-center rounded-sm border-[1.5px] border-ember bg-ember px-4 text-lg font-semibold text-on-ember focus-within:outline-2">
          {state.photo ? t`Retake picture` : t`Take picture`}
          <input
            type="file"
            accept="image/*"
            capture="environment"
            data-testid="picture"
            aria-label={t`${say(step.title)}, picture`}
            className="sr-only"
            onChange={(e) => void take(e.target.files?.[0])}
          />
        </label>
      </Act>
    </>
  );
}
