// What is due on the job, the soonest first; a safety test begins from here as a short procedure.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import { v7 as uuidv7 } from "uuid";
import type { DueItem, SafetyTest } from "../../api/client";
import { moment, useSurroundings } from "../../app/context";
import { useJob, useJobStore } from "../../job/context";
import { Button } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { useBegin } from "../commissioning/useBegin";
import { farOff } from "./farOff";
import { useKeep } from "./useKeep";
import { useDue } from "./useAsked";
import { BOX, MOST_REMARK } from "./When";
import { nowMs, stamp } from "../../outbox/time";

const FIRST = 5;

export function DueList() {
  const due = useDue();
  const [all, showAll] = useState(false);
  const now = nowMs() / 1000;
  if (!due || (due.items.length === 0 && due.tests.every((t) => !t.failed))) return null;
  const items = all ? due.items : due.items.slice(0, FIRST);
  const failed = due.tests.filter((t) => t.failed);
  return (
    <section data-testid="due" id="due" aria-label={t`What is due`} className="mb-3 border-b-[1.5px] border-frame pb-2">
      <h3 className="pb-1 font-bold">{t`What is due`}</h3>
      <ul>
        {failed.map((test) => (
          <Line
            key={`failed ${test.test} ${test.machine}`}
            title={t`${test.title}: failed`}
            name={test.name}
            far={t`out of use until it passes`}
            late
            test={test}
          />
        ))}
        {items.map((i) => (
          <Line
            key={i.key}
            title={i.title}
            name={i.name}
            far={farOff(i.at_s, now)}
            late={i.at_s <= now}
            item={i}
            test={due.tests.find((t) => i.kind === "test" && `${t.test}.${t.machine}` === i.key) ?? null}
          />
        ))}
      </ul>
      {due.items.length > FIRST ? (
        <Button data-testid="all-due" look="quiet" onClick={() => showAll(!all)}>
          {all ? t`Show only the next ones` : t`Show all ${due.items.length} due items`}
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
          {item?.assumed ? t` (usual figures)` : ""}
        </span>
      </span>
      {test ? <DoIt test={test} /> : null}
    </li>
  );
}

function DoIt({ test }: { test: SafetyTest }) {
  const guest = useJobStore().role === "guest";
  const { begin, trouble } = useBegin(test.machine);
  const [failing, fail] = useState(false);
  if (guest) return null;
  const which = (
    <span className="sr-only">
      : {test.title}, {test.name}
    </span>
  );
  return (
    <>
      <span className="flex gap-2">
        {test.failed ? null : (
          <Button data-testid="failed" look="quiet" onClick={() => fail(!failing)}>
            <Trans>Record as failed{which}</Trans>
          </Button>
        )}
        <Button data-testid="do-test" onClick={() => void begin(null, test.test)}>
          {test.failed ? t`Repeat` : t`Start test`}
          {which}
        </Button>
      </span>
      {trouble ? (
        <span role="alert" className="col-start-2 block text-stop">
          {trouble}
        </span>
      ) : null}
      {failing ? <Failure test={test} done={() => fail(false)} /> : null}
    </>
  );
}

/** What a test failed by: the machine is out of use until it passes. */
function Failure({ test, done }: { test: SafetyTest; done: () => void }) {
  const { keep, noRoom } = useKeep();
  const store = useJobStore();
  const { drafts } = useJob();
  const { person } = useSurroundings();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const key = `log.failed.${test.test}.${test.machine}`;
  const remark = drafts[key] ?? "";
  const record = async () => {
    const kept = await keep([
      {
        id: uuidv7(),
        ...stamp(),
        kind: "safety_test",
        subject: test.machine,
        test: test.test,
        look: "failed",
        remark: remark.trim(),
        by: person.name,
      },
    ]);
    if (!kept) return;
    store.draft(key, null);
    done();
  };
  return (
    <form
      className="col-span-2 col-start-2 flex flex-wrap items-end gap-2 pt-1"
      onSubmit={(event) => {
        event.preventDefault();
        void record();
      }}
    >
      <label className="min-w-0 grow">
        <span className="block text-small text-muted">{t`What happened`}</span>
        <input
          data-testid="failed-how"
          ref={field}
          maxLength={MOST_REMARK}
          value={remark}
          onChange={(e) => store.draft(key, e.target.value || null)}
          className={BOX}
        />
      </label>
      {noRoom}
      <Button data-testid="record-failure" look="act" type="submit">{t`Record as out of use`}</Button>
    </form>
  );
}
