// Equipment, generators: those chosen with what was found on them; those that would carry the loads.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import { useDeferredValue } from "react";
import { useQuantities } from "../../app/context";
import { useEntries, useJob, useJobStore, useStage } from "../../job/context";
import { textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button, Message, StageLink } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { chooseSets } from "./choose";
import { MachineRow, type RuledOut, RuledOutList } from "./machines";
import { CaptionedTable } from "../../ui/CaptionedTable";

type Carrier = Row<"generators">;

/** Which generators carry the loads. */
export function Generators() {
  const store = useJobStore();
  const { document } = useJob();
  const stage = useStage("equipment");
  const late = useDeferredValue(stage);
  const sets = useEntries("equipment.generators", "generator");
  const rows = late?.tables["generators"] ?? [];
  const split = late?.tables["generator_split"] ?? [];
  return (
    <StagePart
      given={
        <>
          {["generator_fuel", "margin_fraction", "hours_a_day_s"].map((f) => (
            <JobField key={f} path={`equipment.${f}`} />
          ))}
          {sets.all.length === 0 ? (
            <Message title={t`No generator chosen yet`}>
              {t`List the loads under Need, then choose a generator on the right. With mains power on site you need none.`}
              <StageLink to="need?part=power">{t`List the loads`}</StageLink>
            </Message>
          ) : null}
          {sets.all.map((set, n) => {
            const at = `equipment.generators[${n}]`;
            const of = t`Generator ${n + 1}`;
            return (
              <MachineRow key={textAt(set, "id")} machine={set} at={at} of={of} list="generators" remove={() => sets.remove(set)}>
                <JobField layout="stacked" of={of} path={`${at}.fuel`} none={t`the generators' fuel`} />
                <JobField layout="stacked" of={of} path={`${at}.feeds`} />
                <JobField layout="stacked" of={of} path={`${at}.serial`} />
                {["hose", "inside"].map((f) => (
                  <JobField key={f} layout="stacked" of={of} path={`${at}.${f}`} none={t`not checked`} />
                ))}
              </MachineRow>
            );
          })}
          <div className="pt-3">
            <Button data-testid="add-generator" onClick={() => sets.add({ model: "" })}>{t`Add generator`}</Button>
          </div>
          <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 text-base font-bold">{t`Natural gas: conversion kit or tri-fuel generator`}</h3>
          {["kit_cost", "tri_fuel_cost"].map((f) => (
            <JobField key={f} path={`equipment.${f}`} />
          ))}
        </>
      }
      stage={stage}
      part="generators"
      choices={
        <>
          <Carriers
            rows={rows.filter((r) => r.code === null)}
            take={(r) => store.editAll(chooseSets(document, [{ ...r, feeds: "all" }]))}
          />
          <Split rows={split} take={() => store.editAll(chooseSets(document, split))} />
          <RuledOutList rows={rows.filter((r): r is Carrier & RuledOut => r.code !== null)} />
        </>
      }
    />
  );
}

function Carriers({ rows, take }: { rows: Carrier[]; take: (row: Carrier) => void }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <CaptionedTable
      caption={t`Generators that carry all loads here, smallest first`}
      heads={[
        { word: t`Generator` },
        { word: t`Continuous`, right: true },
        { word: t`Headroom`, right: true },
        { word: t`At start-up`, right: true, className: "max-sm:hidden lg:max-xl:hidden" },
        { word: t`Fuel, all running`, right: true },
        { word: t`Choose`, ears: true },
      ]}
    >
      {rows.map((r) => (
        <tr key={r.model} className="border-t border-hair">
          <th scope="row" className="py-1.5 font-medium">
            {r.name}{" "}
            <span className="font-normal text-muted">
              <Trans>on {r.fuel_name}</Trans>
            </span>
            {r.needs_order ? (
              <span className="block text-small font-normal text-ember-ink">{t`only if the loads start one at a time`}</span>
            ) : null}
          </th>
          <td className="text-right">{q.show(r.continuous_w ?? 0, "electric_power")}</td>
          <td className="text-right">{q.show(r.spare ?? 0, "fraction")}</td>
          <td className="text-right max-sm:hidden lg:max-xl:hidden">
            {r.needs_order ? "—" : q.show(r.surge_spare ?? 0, "fraction")}
          </td>
          <td className="text-right">{q.show(r.fuel_flow ?? 0, r.fuel_flow_kind)}</td>
          <td className="pl-3 text-right">
            <Button edits data-testid="take" look="quiet" onClick={() => take(r)}>
              <Trans>
                Choose<span className="sr-only"> {r.name}</span>
              </Trans>
            </Button>
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

function Split({ rows, take }: { rows: Row<"generator_split">[]; take: () => void }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <div className="mb-4 flex flex-wrap items-baseline justify-between gap-2 border-t-[1.5px] border-frame pt-1">
      <p>
        <span className="text-small text-muted">{t`Or two generators: `}</span>
        {rows
          .map(
            (r) =>
              t`${r.name} (${q.show(r.continuous_w ?? 0, "electric_power")}) for the ${r.feeds === "essential" ? t`essential loads` : t`other loads`}`,
          )
          .join(", ")}
      </p>
      <Button edits look="quiet" onClick={take}>{t`Choose both`}</Button>
    </div>
  );
}
