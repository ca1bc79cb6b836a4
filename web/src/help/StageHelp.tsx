// What a stage is for, what it needs and how to read it: one page of the guide, where the hand is.
import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { Suspense, lazy } from "react";
import { Link } from "react-router";
import { Skeleton } from "../ui/controls";
import { readOne } from "./guide";

const Words = lazy(() => import("./Words"));

interface StageHelpProps {
  /** The page of the guide: the name of a stage, or another page's. */
  page: string;
  /** Once a link leads away. */
  onLeave: () => void;
}

/** The page of the guide for this stage, with a way to the whole guide. */
export function StageHelp({ page, onLeave }: StageHelpProps) {
  const guide = useQuery({ queryKey: ["guide", page], queryFn: () => readOne(page), staleTime: Infinity });
  return (
    <div data-testid="stage-help">
      {guide.data === undefined ? <Skeleton /> : null}
      {guide.data ? (
        <Suspense fallback={<Skeleton />}>
          <Words text={guide.data.text} />
        </Suspense>
      ) : null}
      <p className="py-3">
        <Link to="/help" onClick={onLeave} className="font-medium text-ember-ink underline">
          {t`Open the user guide`}
        </Link>
      </p>
    </div>
  );
}
