// What is due on the job, the soonest first; a safety test begins from here as a short procedure.
import { useState } from "react";
import type { DueItem, SafetyTest } from "../../api/client";
import { moment } from "../../app/context";
import { useJobStore } from "../../job/context";
import { Button } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { useBegin } from "../commissioning/useBegin";
import { farOff } from "./farOff";
import { useDue } from "./useAsked";

const FIRST = 5;
export function DueList() {
  const due = useDue();
  const [all, showAll] = useState(false);
  const now = Date.now() / 1000;
  if (!due || (due.items.length === 0 && due.tests.every((t) => !t.failed))) return null;
  const items = all ? due.items : due.items.slice(0, FIRST);
  const failed = due.tests.filter((t) => t.failed);
  return (
    <section id="due" aria-label="What is due" className="mb-3 border-b-[1.5px] border-frame pb-2">
      <h3 className="pb-1 font-bold">What is due</h3>
      <ul>
        {failed.map((t) => (
          <Line key={`failed ${t.test} ${t.machine}`} title={`${t.title}: failed`} name={t.name} far="out of use until it passes" late test={t} />
        ))}
        {items.map((i) => (
          <Line key={i.key} title={i.title} name={i.name} far={farOff(i.at_s, now)} late={i.at_s <= now} item={i} test={due.tests.find((t) => i.kind === "test" && `${t.test}.${t.machine}` === i.key) ?? null} />
        ))}
      </ul>
      {due.items.length > FIRST ? (
        <Button look="quiet" onClick={() => showAll(!all)}>
          {all ? "Just the next ones" : `All ${due.items.length} that are due`}
        </Button>
      ) : null}
    </section>
  );
}

interface LineProps {
  title: string;
  name: string;
  far: string;
  late: boolean;
  item?: DueItem;
  test: SafetyTest | null;
}

function Line({ title, name, far, late, item, test }: LineProps) {
  return (
    <li className="grid grid-cols-[1.25rem_1fr_auto] items-center gap-2 border-b border-hair py-1">
      <span className="pt-0.5">{late ? <Mark level="caution" size={18} silent /> : null}</span>
      <span className="min-w-0">
        <span className="font-medium">{title}</span>
        {name ? <span className="text-muted"> · {name}</span> : null}
        <span className={`block text-small ${late ? "text-ember-ink" : "text-muted"}`}>
          {far}
          {item ? `, ${moment(item.at_s)}` : ""}
          {item?.assumed ? " (by usual figures)" : ""}
        </span>
      </span>
      {test ? <DoIt test={test} /> : null}
    </li>
  );
}

function DoIt({ test }: { test: SafetyTest }) {
  const guest = useJobStore().role === "guest";
  const { begin, trouble } = useBegin(test.machine);
  if (guest) return null;
  return (
    <span>
      <Button onClick={() => void begin(null, test.test)}>
        Do it<span className="sr-only">: {test.title}, {test.name}</span>
      </Button>
      {trouble ? (
        <span role="alert" className="block text-stop">
          {trouble}
        </span>
      ) : null}
    </span>
  );
}
