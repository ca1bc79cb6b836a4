import { useState } from "react";
import { Button } from "../../../ui/controls";
import { Mark } from "../../../ui/Mark";
import { Act } from "../Act";
import type { BodyProps } from "./screens";

export const kind = "test";
export const word = "Leak test";

const METHODS = ["soap", "approved detector", "electronic nose"];
const JOINT_WORDS = { too_early: "tested too early", not_tested: "not tested", tight: "tight", leaking: "leaks: tighten, test again", stale: "opened since: test again" };

export function Body({ run, step, recording, help, next }: BodyProps<"test">) {
  const [method, setMethod] = useState(METHODS[0] ?? "soap");
  const joints = run.state.joints.filter((j) => step.joints.includes(j.id));
  const due = joints.find((j) => j.status !== "tight");
  const test = (joint: string, tight: boolean) => void recording.record("joint_tested", { joint, tight, method });
  return (
    <>
      <div className="px-4 pb-4">
        <label className="flex items-center gap-2 pb-2">
          Tested with
          <select value={method} onChange={(e) => setMethod(e.target.value)} className="min-h-12 flex-1 rounded-sm border-[1.5px] border-edge bg-card px-2">
            {METHODS.map((m) => (
              <option key={m}>{m}</option>
            ))}
          </select>
        </label>
        <ul className="border-t border-rule">
          {joints.map((j) => (
            <li key={j.id} className="grid grid-cols-[1fr_auto_auto] items-center gap-2 border-b border-hair py-1.5">
              <span className="min-w-0">
                <span className={j === due ? "font-bold" : ""}>{j.name}</span>
                <span className={`flex items-center gap-1.5 text-body ${j.status === "tight" ? "text-good" : j.status === "not_tested" || j.status === "too_early" ? "text-muted" : "text-stop"}`}>
                  <Mark silent size={14} level={j.status === "tight" ? "good" : j.status === "not_tested" || j.status === "too_early" ? "not_checked" : "stop"} />
                  {JOINT_WORDS[j.status]}
                </span>
              </span>
              <Button large onClick={() => test(j.id, false)}>
                Leaks<span className="sr-only">: {j.name}</span>
              </Button>
              <Button large onClick={() => test(j.id, true)}>
                Tight<span className="sr-only">: {j.name}</span>
              </Button>
            </li>
          ))}
        </ul>
      </div>
      <Act help={help}>
        {due ? (
          <Button large look="act" onClick={() => test(due.id, true)}>
            Tight: {due.name.split(":")[0]}
          </Button>
        ) : (
          <Button large look="act" onClick={next}>
            All tight: go on
          </Button>
        )}
      </Act>
    </>
  );
}
