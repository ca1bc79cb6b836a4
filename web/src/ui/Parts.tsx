// A stage in parts: one row of words under the path, the open one named in the address.
import { t } from "@lingui/core/macro";
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from "@headlessui/react";
import { useSearchParams } from "react-router";
import { LEVELS, type Stage } from "../api/client";
import { Button } from "./controls";
import { Mark } from "./Mark";
import { useMore } from "./More";

export interface Part {
  /** What the address calls it, and the core's verdicts and figures that stand on it. */
  key: string;
  word: string;
  page: React.ReactNode;
  /** False where this job's machines need nothing of it: it waits under "More". */
  matters?: boolean;
}

interface PartsProps {
  parts: Part[];
  stage: Stage | null;
  /** Stands at the end of the row. */
  beside?: React.ReactNode;
}

/** The parts of a stage as tabs, each with the shape of its worst verdict. */
export function Parts({ parts: all, stage, beside }: PartsProps) {
  const [params, setParams] = useSearchParams();
  const [more, toggle] = useMore();
  const parts = all.filter((p) => more || p.matters !== false || p.key === params.get("part"));
  const named = parts.findIndex((p) => p.key === params.get("part"));
  const open =
    named >= 0
      ? named
      : Math.max(
          0,
          parts.findIndex((p) => p.matters !== false),
        );
  const worst = (part: Part) => LEVELS.find((level) => stage?.verdicts.some((v) => v.level === level && v.part === part.key));
  return (
    <TabGroup selectedIndex={open} onChange={(n) => setParams({ part: parts[n]?.key ?? "" }, { replace: true })}>
      <div className="flex flex-wrap items-center border-b border-rule px-5 pt-2">
        <TabList className="flex flex-1 flex-wrap gap-x-1">
          {parts.map((part) => {
            const level = worst(part);
            return (
              <Tab
                key={part.key}
                data-testid={`part-${part.key}`}
                className="flex min-h-9 items-center gap-1.5 border-b-4 border-transparent px-2 pb-1 font-medium data-selected:border-ember data-selected:font-bold"
              >
                {part.word}
                {level === "stop" || level === "caution" ? <Mark level={level} size={13} /> : null}
              </Tab>
            );
          })}
        </TabList>
        {parts.length < all.length ? (
          <Button data-testid="more-parts" look="quiet" onClick={toggle}>
            {t`More: ${all
              .filter((p) => !parts.includes(p))
              .map((p) => p.word)
              .join(", ")}`}
          </Button>
        ) : null}
        {beside}
      </div>
      <TabPanels>
        {parts.map((part) => (
          <TabPanel key={part.key} data-testid={`panel-${part.key}`} tabIndex={-1}>
            {part.page}
          </TabPanel>
        ))}
      </TabPanels>
    </TabGroup>
  );
}
