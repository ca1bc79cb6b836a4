// What this job's machines do not need waits folded; it opens by itself where it holds something.
import { t } from "@lingui/core/macro";
import { useState } from "react";
import { useJobPart } from "../job/context";
import { at } from "../job/document";
import { Button } from "./controls";

const OPENED = "ofen.more.opened";

/** Whether what waits under "More" stands open, as it was left on this device. */
export function useMore(): [boolean, () => void] {
  const [open, setOpen] = useState(() => localStorage.getItem(OPENED) === "yes");
  const toggle = () => {
    localStorage.setItem(OPENED, open ? "no" : "yes");
    setOpen(!open);
  };
  return [open, toggle];
}

interface MoreProps {
  /** What waits, as its button says: "ground, natural gas". */
  what: string;
  /** The fields that wait; while one of them holds a value, all stand open. */
  paths: string[];
  children: React.ReactNode;
}

/** Fields that this job does not need. */
export function More({ what, paths, children }: MoreProps) {
  const [open, toggle] = useMore();
  const holds = useJobPart((s) => paths.some((p) => ![null, undefined, ""].includes(at(s.document, p) as null)));
  if (paths.length === 0) return null;
  return (
    <>
      {open || holds ? children : null}
      {holds ? null : (
        <p className="border-b border-hair">
          <Button look="quiet" onClick={toggle}>
            {open ? t`Show less: ${what}` : t`More: ${what}`}
          </Button>
        </p>
      )}
    </>
  );
}
