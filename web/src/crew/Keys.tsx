// The keys of an open job, and the list of them under "?".
import { t } from "@lingui/core/macro";
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useJobStore } from "../job/context";
import { Button } from "../ui/controls";

const shortcuts = (): [string, string][] => [
  [t`Alt + 1 … 7`, t`go to a stage, Need to Handover`],
  [t`Alt + Z`, t`undo the last change of the job`],
  [t`Tab, Shift + Tab`, t`go to the next field, or back to the one before`],
  ["Enter", t`record what you entered`],
  [t`Esc`, t`close the open window`],
  ["?", t`this list`],
];

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName));

interface KeysProps {
  /** Address of the job. */
  base: string;
  /** The words of the stages in their addresses, in order. */
  stages: string[];
}

/** Listens for the keys of a job; shows the list of them. */
export function Keys({ base, stages }: KeysProps) {
  const [shown, setShown] = useState(false);
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
      } else if (event.key === "?" && !isTyping(event.target)) setShown(true);
      else return;
      event.preventDefault();
    };
    globalThis.addEventListener("keydown", press);
    return () => globalThis.removeEventListener("keydown", press);
  }, [base, stages, navigate, store]);
  return (
    <Dialog open={shown} onClose={() => setShown(false)} className="relative z-40">
      <div className="fixed inset-0 bg-ink/50" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className="w-full max-w-md border-[1.5px] border-frame bg-card p-4">
          <DialogTitle className="pb-2 text-lg font-bold">{t`Shortcuts`}</DialogTitle>
          <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1.5 pb-4">
            {shortcuts().map(([key, does]) => (
              <div key={key} className="contents">
                <dt className="whitespace-nowrap font-semibold">{key}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
          <Button onClick={() => setShown(false)}>{t`Close`}</Button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
