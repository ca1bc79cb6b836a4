// Equipment, heaters: those chosen at the left; every single one and pair that would do, ranked, at the right.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import { useDeferredValue } from "react";
import { useQuantities } from "../../app/context";
import { useEntries, useJob, useJobStore, useStage } from "../../job/context";
import { listAt, textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { choose, chooseForValve } from "./choose";
import { MachineRow, RuledOutList } from "./machines";
import { CaptionedTable } from "../../ui/CaptionedTable";

type Candidate = Row<"candidates">;

type ForValve = Row<"valve_candidates">;

const words = (c: Candidate) => c.units.map((u) => `${u.count > 1 ? `${u.count} × ` : ""}${u.name}`).join(" + ");

/** Which heaters meet the need. */
export function Heaters() {
  const store = useJobStore();
  const { document } = useJob();
  const stage = useStage("equipment");
  const late = useDeferredValue(stage);
  const heaters = useEntries("equipment.heaters", "heater");
  const serves = useServes();
  const rows = late?.tables["candidates"] ?? [];
  const take = (c: Candidate) => store.editAll(choose(document, c.units));
  return (
    <StagePart
      given={
        <>
          <JobField path="equipment.heater_fuel" />
          <JobField path="equipment.margin_fraction" />
          {heaters.all.length === 0 ? (
            <Message title={t`No heater chosen yet`}>{t`Choose one from the list on the right, or add one by name.`}</Message>
          ) : null}
          {heaters.all.map((heater, n) => {
            const at = `equipment.heaters[${n}]`;
            const of = t`Heater ${n + 1}`;
            return (
              <MachineRow
                key={textAt(heater, "id")}
                machine={heater}
                at={at}
                of={of}
                list="heaters"
                remove={() => heaters.remove(heater)}
              >
                <JobField layout="stacked" of={of} path={`${at}.fuel`} none={t`the heaters' fuel`} />
                <JobField layout="stacked" of={of} path={`${at}.set_to`} />
                <JobField layout="stacked" of={of} path={`${at}.serves`} options={serves} />
                <JobField layout="stacked" of={of} path={`${at}.serial`} />
              </MachineRow>
            );
          })}
          <div className="pt-3">
            <Button data-testid="add-heater" onClick={() => heaters.add({ model: "" })}>{t`Add heater`}</Button>
          </div>
        </>
      }
      stage={stage}
      part="heaters"
      choices={
        <>
          <Candidates rows={rows} able={Number(late?.tables["considered"]?.[0]?.["able"] ?? 0)} take={take} />
          <OneOrSeveral rows={rows} take={take} />
          <ForValves rows={late?.tables["valve_candidates"] ?? []} />
          <RuledOutList rows={late?.tables["ruled_out"] ?? []} />
        </>
      }
    />
  );
}

/** What a heater may warm: the spaces, or one of the valve bodies. */
function useServes() {
  const valves = listAt(useJob().document, "need.valves");
  return [
    { value: "", reads: t`the spaces` },
    ...valves.map((v) => ({ value: textAt(v, "id"), reads: textAt(v, "name") || textAt(v, "id") })),
  ];
}

function Candidates({ rows, able, take }: { rows: Candidate[]; able: number; take: (row: Candidate) => void }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <CaptionedTable
      caption={
        able === 1
          ? t`The only choice that gives enough heat`
          : t`The best of ${able.toLocaleString("en")} combinations that give enough heat`
      }
      heads={[
        { word: t`Heaters` },
        { word: t`Heat output`, right: true },
        { word: t`Of the heat needed`, right: true },
        { word: t`Warm-up time`, right: true },
        { word: t`Choose`, ears: true },
      ]}
    >
      {rows.map((r, n) => (
        <tr key={r.key} className="border-t border-hair align-top">
          <th scope="row" className="py-1.5 font-medium">
            <span className="text-muted">{n + 1} </span>
            {words(r)}
            <span className="block text-small font-normal text-muted">{r.why}</span>
          </th>
          <td className="whitespace-nowrap py-1.5 pl-2 text-right">{q.show(r.output_w, "heat_flow")}</td>
          <td className="py-1.5 pl-2 text-right">{r.share === null ? "" : q.show(r.share, "fraction")}</td>
          <td className="whitespace-nowrap py-1.5 pl-2 text-right">
            {r.warm_up_s === null ? t`never` : q.show(r.warm_up_s, "duration")}
          </td>
          <td className="pl-3 text-right">
            <Button edits data-testid="take" look="quiet" onClick={() => take(r)}>
              <Trans>
                Choose<span className="sr-only"> {words(r)}</span>
              </Trans>
            </Button>
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

const marks = (): { word: string; of: (c: Candidate, show: (v: number, k: string) => string) => string }[] => [
  {
    word: t`If the largest heater fails`,
    of: (c, show) => t`${show(Math.min(1, c.left_share), "fraction")} of the heat needed is left`,
  },
  { word: t`Warm air from`, of: (c) => (c.count === 1 ? t`one place` : t`${c.count} places`) },
  { word: t`Fans, starting together`, of: (c, show) => show(c.surge_w, "electric_power") },
  { word: t`Fuel in the coldest hour`, of: (c, show) => show(c.fuel_flow, c.fuel_flow_kind) },
  { word: t`Warm-up time`, of: (c, show) => (c.warm_up_s === null ? "never" : show(c.warm_up_s, "duration")) },
  { word: t`Heat installed`, of: (c, show) => show(c.output_w, "heat_flow") },
];

/** The best with one unit, with two, three and four, beside each other. */
function OneOrSeveral({ rows, take }: { rows: Candidate[]; take: (row: Candidate) => void }) {
  const q = useQuantities();
  const best = [1, 2, 3, 4].map((count) => rows.find((r) => r.count === count)).filter((r) => r !== undefined);
  if (best.length < 2) return null;
  return (
    <CaptionedTable
      caption={t`One large heater or several small ones`}
      heads={[{ word: t`Score`, ears: true }, ...best.map((c) => ({ word: words(c), right: true }))]}
    >
      {marks().map((m) => (
        <tr key={m.word} className="border-t border-hair">
          <th scope="row" className="py-0.5 text-small font-normal text-muted">
            {m.word}
          </th>
          {best.map((c) => (
            <td key={c.key} className="pl-3 text-right">
              {m.of(c, q.show)}
            </td>
          ))}
        </tr>
      ))}
      <tr className="border-t border-hair">
        <td />
        {best.map((c) => (
          <td key={c.key} className="pl-3 text-right">
            <Button edits data-testid="take-compared" look="quiet" onClick={() => take(c)}>
              <Trans>
                Choose<span className="sr-only"> {words(c)}, as compared</span>
              </Trans>
            </Button>
          </td>
        ))}
      </tr>
    </CaptionedTable>
  );
}

function ForValves({ rows }: { rows: ForValve[] }) {
  const q = useQuantities();
  const store = useJobStore();
  const { document } = useJob();
  if (rows.length === 0) return null;
  return (
    <CaptionedTable caption={t`Catalytic heaters for the valve bodies, the closest fit first`}>
      {rows.map((r) => (
        <tr key={`${r.valve} ${r.model}`} className="border-t border-hair">
          <th scope="row" className="py-1 font-medium">
            {r.valve_name}: {r.count > 1 ? `${r.count} × ` : ""}
            {r.name}
          </th>
          <td className="text-right">{q.show(r.output_w, "heat_flow")}</td>
          <td className="text-right">{q.show(r.share, "fraction")}</td>
          <td className="pl-3 text-right">
            <Button
              edits
              look="quiet"
              onClick={() => store.editAll(chooseForValve(document, r.valve, { model: r.model, count: r.count, fuel: "" }))}
            >
              <Trans>
                Choose
                <span className="sr-only">
                  {" "}
                  {r.name} for {r.valve_name}
                </span>
              </Trans>
            </Button>
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
}
