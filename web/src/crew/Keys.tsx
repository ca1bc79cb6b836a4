// The keys of an open job, and the list of them under "?".
import { t } from "@lingui/core/macro";
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { StageHelp } from "../help/StageHelp";
import { showHelp, useHelpOpen } from "../help/open";
import { useJobStore } from "../job/context";
import { Button } from "../ui/controls";

const shortcuts = (): [string, string][] => [
  [t`Alt + 1 … 7`, t`go to a stage, Need to Handover`],
  [t`Alt + Z`, t`undo the last change of the job`],
  [t`Tab, Shift + Tab`, t`go to the next field, or back to the one before`],
  ["Enter", t`record what you entered`],
  [t`Esc`, t`close the open window`],
  ["?", t`open the help of this page`],
];

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName));

interface KeysProps {
  /** Address of the job. */
  base: string;
  /** The words of the stages in their addresses, in order. */
  stages: string[];
  /** The stage that is open: its page of the guide is the help. */
  stage: string;
}

/** Listens for the keys of a job; shows the help of its stage with the list of them. */
export function Keys({ base, stages, stage }: KeysProps) {
  const shown = useHelpOpen();
  useEffect(() => () => showHelp(false), []);
  const navigate = useNavigate();
  const store = useJobStore();
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const stage = event.altKey && /^Digit[1-7]$/.test(event.code) ? stages[Number(event.code.slice(5)) - 1] : undefined;
      if (stage) void navigate(`${base}/${stage}`);
      else if (event.altKey && event.code === "KeyZ") {
        // A field that is being typed in shows what is typed until it is left.
        if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
        store.undo();
      } else if (event.key === "?" && !isTyping(event.target)) showHelp(true);
      else return;
      event.preventDefault();
    };
    globalThis.addEventListener("keydown", press);
    return () => globalThis.removeEventListener("keydown", press);
  }, [base, stages, navigate, store]);
  return (
    <Dialog open={shown} onClose={() => showHelp(false)} className="relative z-40">
      <div className="fixed inset-0 bg-ink/50" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-center overflow-y-auto p-4">
        <DialogPanel className="w-full max-w-3xl border-[1.5px] border-frame bg-card p-5">
          <div className="flex items-center justify-between gap-4 pb-2">
            <DialogTitle className="text-muted">{t`Help`}</DialogTitle>
            <Button onClick={() => showHelp(false)}>{t`Close help`}</Button>
          </div>
          <StageHelp page={stage} onLeave={() => showHelp(false)} />
          <h2 className="border-t border-rule pt-3 pb-2 text-lg font-bold">{t`Shortcuts`}</h2>
          <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1.5 pb-4">
            {shortcuts().map(([key, does]) => (
              <div key={key} className="contents">
                <dt className="whitespace-nowrap font-semibold">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
