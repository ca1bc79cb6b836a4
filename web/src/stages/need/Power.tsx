// Need, power: the electrical loads, in which order they start, how they lie on the legs, what the day asks.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel, Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { memo, useDeferredValue } from "react";
import type { Stage } from "../../api/client";
import { useQuantities, useSurroundings } from "../../app/context";
import { useEntries, useJobStore, useStage } from "../../job/context";
import { type Document, textAt, withIds } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { TableImport } from "../../ui/TableImport";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { SiteFields } from "./Heat";

// One line where there is room; on a phone the name has a line of its own.
const ROW = "grid grid-cols-3 gap-1.5 sm:grid-cols-[1fr_5.5rem_5.5rem_7rem]";
const MORE_FIELDS = ["type", "power_factor", "connection", "leg", "duty_fraction", "hours", "starts"];

/** What must be powered, and what that asks of a generator. */
export function Power({ alone = false }: { alone?: boolean }) {
  const store = useJobStore();
  const { vocabulary } = useSurroundings();
  const stage = useStage("need");
  const late = useDeferredValue(stage);
  const loads = useEntries("need.loads", "load");
  const add = (added: Document[]) => store.edit("need.loads", withIds("load", loads.all, added));
  return (
    <StagePart
      given={
        <>
          {alone ? <SiteFields /> : null}
          <JobField path="need.system" />
          <JobField path="need.starting" />
          {loads.all.length === 0 ? (
            <Message
              title={t`No load yet`}
            >{t`Add a load, choose a usual one, or paste a list. The fans of the chosen heaters are counted by themselves.`}</Message>
          ) : null}
          {loads.all.length > 0 ? (
            <div aria-hidden="true" className={`mt-3 text-tiny text-muted ${ROW}`}>
              <span className="col-span-3 sm:col-span-1">{t`Load`}</span>
              <span>{t`Running`}</span>
              <span>{t`Starting`}</span>
              <span>{t`Importance`}</span>
            </div>
          ) : null}
          <ul>
            {loads.all.map((load, n) => (
              <LoadRow key={textAt(load, "id")} load={load} n={n} remove={() => loads.remove(load)} />
            ))}
          </ul>
          <div className="flex flex-wrap gap-2 pt-3">
            <Button
              data-testid="add-load"
              onClick={() => loads.add({ name: t`Load ${loads.all.length + 1}` })}
            >{t`Add load`}</Button>
            <UsualLoads entries={vocabulary.usual_loads as Document[]} take={loads.add} />
          </div>
          <TableImport
            list="loads"
            add={add}
            room={60 - loads.all.length}
            most={60}
            one="load"
            several="loads"
            columns={t`Columns: name, running, starting, power factor, importance. A first row with column names can change the order. It can add type, connection, leg, duty, hours and automatic start.`}
            example={"Name\tRunning\tStarting\nSump pump\t800\t2400"}
          />
        </>
      }
      stage={stage}
      part="power"
      choices={
        <>
          <StartOrder stage={late} />
          <Legs stage={late} />
          <Profile stage={late} />
        </>
      }
    />
  );
}

function LoadRow({ load, n, remove }: { load: Document; n: number; remove: () => void }) {
  const at = `need.loads[${n}]`;
  const of = textAt(load, "name") || t`Load ${n + 1}`;
  return (
    <Disclosure as="li" id={textAt(load, "id")} className="border-b border-hair py-1.5">
      <div className={ROW}>
        <div className="col-span-3 sm:col-span-1">
          <JobField layout="bare" of={of} path={`${at}.name`} />
        </div>
        {["running_w", "starting_w", "importance"].map((f) => (
          <JobField key={f} layout="bare" of={of} path={`${at}.${f}`} />
        ))}
      </div>
      <div className="flex gap-4">
        <DisclosureButton data-testid="more" className="min-h-6 text-small text-ember-ink underline">
          <Trans>
            More<span className="sr-only"> of {of}</span>
          </Trans>
        </DisclosureButton>
        <button data-testid="remove" type="button" onClick={remove} className="min-h-6 text-small text-ember-ink underline">
          <Trans>
            Remove<span className="sr-only"> {of}</span>
          </Trans>
        </button>
      </div>
      <DisclosurePanel className="grid grid-cols-3 gap-1.5">
        {MORE_FIELDS.map((f) => (
          <JobField key={f} layout="stacked" of={of} path={`${at}.${f}`} />
        ))}
      </DisclosurePanel>
    </Disclosure>
  );
}

function UsualLoads({ entries, take }: { entries: Document[]; take: (load: Document) => void }) {
  const q = useQuantities();
  return (
    <Menu>
      <MenuButton className="min-h-9 rounded-sm border-[1.5px] border-frame bg-card px-3 font-medium">{t`Add a usual load`}</MenuButton>
      <MenuItems anchor="bottom start" className="z-30 max-h-80 overflow-y-auto rounded-sm border-[1.5px] border-frame bg-card">
        <p className="px-3 py-1 text-tiny text-muted">{t`Typical figures (common practice). The nameplate decides.`}</p>
        {entries.map((e) => (
          <MenuItem key={textAt(e, "name")}>
            <button
              type="button"
              onClick={() => take(e)}
              className="flex min-h-9 w-full items-center justify-between gap-6 px-3 text-left data-focus:bg-ember-wash"
            >
              <span>{textAt(e, "name")}</span>
              <span className="text-small text-muted">
                <Trans>
                  {q.show(Number(e["running_w"]), "electric_power")}, starts {q.show(Number(e["starting_w"]), "electric_power")}
                </Trans>
              </span>
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}

const StartOrder = memo(function StartOrder({ stage }: { stage: Stage | null }) {
  const q = useQuantities();
  const rows = stage?.tables["order"] ?? [];
  if (rows.length === 0) return null;
  const most = Math.max(...rows.map((r) => r.moment_w), 1);
  const share = (w: number) => (100 * w) / most;
  return (
    <CaptionedTable
      caption={t`Start in this order. Power at that moment is what already runs plus the start itself.`}
      heads={[
        { word: t`Load` },
        { word: t`Running`, right: true },
        { word: t`Starting`, right: true },
        { word: t`Power at that moment`, right: true },
        { word: t`Compared`, ears: true, className: "w-1/4" },
      ]}
    >
      {rows.map((r, n) => (
        <tr key={r.id} className="border-t border-hair">
          <th scope="row" className="py-1 font-medium">
            {n + 1}. {r.name}
            <span className="text-small font-normal text-muted">
              {r.importance === "essential" ? "" : r.importance === "can_wait" ? t` · can wait` : t` · can be shed`}
              {r.by_itself ? t` · starts by itself` : ""}
            </span>
          </th>
          <td className="whitespace-nowrap pl-2 text-right">{q.show(r.running_w, "electric_power")}</td>
          <td className="whitespace-nowrap pl-2 text-right">
            {r.estimated ? "≈ " : ""}
            {q.show(r.starting_w, "electric_power")}
          </td>
          <td className="whitespace-nowrap pl-2 text-right font-medium">{q.show(r.moment_w, "electric_power")}</td>
          <td className="pl-3">
            <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2 w-full" aria-hidden="true">
              <rect width={share(r.moment_w - r.starting_w)} height="8" className="fill-gas-wash" />
              <rect x={share(r.moment_w - r.starting_w)} width={share(r.running_w)} height="8" className="fill-gas" />
              <rect
                x={share(r.moment_w - r.starting_w + r.running_w)}
                width={share(r.starting_w - r.running_w)}
                height="8"
                className="fill-ember"
              />
            </svg>
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
});

const Legs = memo(function Legs({ stage }: { stage: Stage | null }) {
  const q = useQuantities();
  const rows = stage?.tables["legs"] ?? [];
  const legs = (stage?.figures ?? []).filter((f) => f.key.startsWith("power.leg_"));
  if (rows.length < 2 || legs.length === 0) return null;
  return (
    <div className="mb-4 border-t-[1.5px] border-frame">
      <h3 className="pb-1 text-small font-normal text-muted">{t`Which leg each load is on`}</h3>
      <div className={`grid gap-4 ${legs.length === 3 ? "grid-cols-3" : "grid-cols-2"}`}>
        {legs.map((leg, n) => (
          <div key={leg.key}>
            <p className="flex justify-between border-b border-rule font-semibold">
              <span>
                <Trans>Leg {n + 1}</Trans>
              </span>
              <span>{q.show(leg.value, "apparent_power")}</span>
            </p>
            <ul>
              {rows
                .filter((r) => r.leg === String(n + 1) || r.leg === "all")
                .map((r) => (
                  <li key={r.id} className="flex justify-between gap-2 border-b border-hair text-small">
                    <span>
                      {r.name}
                      {r.leg === "all" ? t` (on each leg)` : ""}
                    </span>
                    <span className="whitespace-nowrap">
                      {q.show(r.apparent_va / (r.leg === "all" ? legs.length : 1), "apparent_power")}
                    </span>
                  </li>
                ))}
            </ul>
          </div>
        ))}
      </div>
    </div>
  );
});

const Profile = memo(function Profile({ stage }: { stage: Stage | null }) {
  const q = useQuantities();
  const means = (stage?.tables["profile"]?.[0]?.["mean_w"] ?? []) as number[];
  const most = Math.max(...means, 1);
  if (means.length === 0) return null;
  return (
    <figure className="mb-4 border-t-[1.5px] border-frame">
      <figcaption className="pb-1 text-small text-muted">
        <Trans>Average load through the day, with duty counted, highest {q.show(most, "electric_power")}</Trans>
      </figcaption>
      <svg
        viewBox="0 0 240 46"
        className="h-20 w-full"
        preserveAspectRatio="none"
        role="img"
        aria-label={t`Mean load: ${means.map((w, h) => `${h}:00 ${q.show(w, "electric_power")}`).join(", ")}`}
      >
        {means.map((w, hour) => (
          <rect key={hour} x={hour * 10 + 0.7} width="8.6" y={46 - (44 * w) / most} height={(44 * w) / most} className="fill-gas" />
        ))}
      </svg>
      <div aria-hidden="true" className="grid grid-cols-4 text-tiny text-muted">
        {["00:00", "06:00", "12:00", "18:00"].map((t) => (
          <span key={t}>{t}</span>
        ))}
      </div>
    </figure>
  );
});
