// Need, heat: job, site, spaces and valve bodies; schools beside each other, the night, what a warm-up costs.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useDeferredValue } from "react";
import type { Stage } from "../../api/client";
import { useQuantities } from "../../app/context";
import { useAsked, useEntries, useJob, useJobStore, useStage } from "../../job/context";
import { type Document, type Json, freshId, listAt, textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { More } from "../../ui/More";
import { NightChart } from "./NightChart";
import { Schools } from "./Schools";
import { CaptionedTable } from "../../ui/CaptionedTable";

const VALVE_FIELDS = ["name", "flow_m3_per_s", "inlet_pa", "outlet_pa", "gas_in_c", "gas_out_c", "reach_fraction"];

/** What must be warmed, and what that comes to. */
export function Heat() {
  const stage = useStage("need");
  const late = useDeferredValue(stage);
  const spaces = useEntries("need.spaces", "space");
  const valves = useEntries("need.valves", "valve");
  return (
    <StagePart
      given={
        <>
          <SiteFields />
          {spaces.all.length === 0 && valves.all.length === 0 ? (
            <Message title={t`No space yet`}>{t`Add the first space that must be heated.`}</Message>
          ) : null}
          {spaces.all.map((space, n) => (
            <Space key={textAt(space, "id")} space={space} at={`need.spaces[${n}]`} remove={() => spaces.remove(space)} />
          ))}
          {valves.all.map((valve, n) => (
            <Section key={textAt(valve, "id")} entry={valve} word={t`Valve`} remove={() => valves.remove(valve)}>
              {VALVE_FIELDS.map((f) => (
                <JobField key={f} path={`need.valves[${n}].${f}`} of={textAt(valve, "name") || t`Valve`} />
              ))}
            </Section>
          ))}
          <div className="flex flex-wrap gap-2 pt-3">
            <Button
              data-testid="add-space"
              onClick={() => spaces.add({ name: t`Space ${spaces.all.length + 1}` })}
            >{t`Add space`}</Button>
            <Button
              data-testid="add-valve"
              onClick={() => valves.add({ name: t`Valve ${valves.all.length + 1}` })}
            >{t`Add valve body`}</Button>
          </div>
        </>
      }
      stage={stage}
      part="heat"
      choices={
        <>
          <Schools rows={late?.tables["schools"] ?? []} />
          <NightChart nights={late?.tables["nights"] ?? []} />
          <WarmUp stage={late} />
        </>
      }
    />
  );
}

/** What the job is, and its site: first what its machines ask for. */
export function SiteFields() {
  const { document } = useJob();
  const { power } = useAsked();
  const gas = listAt(document, "supplies").some((s) => textAt(s, "fuel") === "natural_gas");
  const first = [
    "place",
    "altitude_m",
    "outside_lowest_c",
    ...(power ? ["outside_highest_c"] : []),
    ...(gas ? ["gas_service_pa"] : []),
  ];
  const rest = ["outside_highest_c", "ground_c", "gas_service_pa", "latitude_deg", "longitude_deg"].filter(
    (f) => !first.includes(f),
  );
  const words: Record<string, string> = { outside_highest_c: t`hottest hour`, ground_c: "ground", gas_service_pa: t`natural gas` };
  return (
    <>
      <JobField path="name" />
      <JobField path="note" />
      {first.map((name) => (
        <JobField key={name} path={`site.${name}`} />
      ))}
      <More what={rest.map((f) => words[f]).join(", ")} paths={rest.map((f) => `site.${f}`)}>
        {rest.map((name) => (
          <JobField key={name} path={`site.${name}`} />
        ))}
      </More>
    </>
  );
}

interface SectionProps {
  entry: Document;
  /** What it is called as long as it has no name. */
  word: string;
  remove: () => void;
  children: React.ReactNode;
}

function Section({ entry, word, remove, children }: SectionProps) {
  const name = textAt(entry, "name") || word;
  return (
    <section id={textAt(entry, "id")} aria-label={name} className="mt-4 border-t-[1.5px] border-frame pt-2">
      <div className="flex items-center justify-between">
        <h3 className="text-base font-bold">{name}</h3>
        <Button data-testid="remove" look="quiet" onClick={remove}>
          <Trans>Remove {name}</Trans>
        </Button>
      </div>
      {children}
    </section>
  );
}

/** Fields side by side, each with its label above. */
function Row({ at, of, names }: { at: string; of: string; names: string[] }) {
  return (
    <div className="grid grid-cols-3 gap-x-2 border-b border-hair py-1">
      {names.map((f) => (
        <JobField key={f} layout="stacked" of={of} path={`${at}.${f}`} />
      ))}
    </div>
  );
}

function Space({ space, at, remove }: { space: Document; at: string; remove: () => void }) {
  const name = textAt(space, "name") || t`Space`;
  const field = (f: string) => <JobField key={f} path={`${at}.${f}`} of={name} />;
  const canvas = textAt(space, "use") === "canvas_hall";
  // One way to say the height is asked, the other offered.
  const pitched = canvas || typeof space["eave_m"] === "number" || typeof space["ridge_m"] === "number";
  const heights = pitched ? ["mean_height_m"] : ["eave_m", "ridge_m"];
  const rest = [...heights, "air_changes_per_h", "use_from_s", "use_until_s", "ground_c", "leads_reason"];
  return (
    <Section entry={space} word={t`Space`} remove={remove}>
      {["name", "use"].map(field)}
      <Row at={at} of={name} names={["length_m", "width_m", ...(pitched ? [] : ["mean_height_m"])]} />
      {pitched ? <Row at={at} of={name} names={["eave_m", "ridge_m", ...(canvas ? ["canvas_walls"] : [])]} /> : null}
      <Row at={at} of={name} names={["inside_c", "tightness", "warm_up_s"]} />
      {["insulation_class", "heat_store"].map(field)}
      <More
        what={t`${pitched ? t`mean height` : t`eave and ridge`}, air changes, hours of use, ground, sizing method`}
        paths={rest.map((f) => `${at}.${f}`)}
      >
        <Row at={at} of={name} names={[...heights, "air_changes_per_h"]} />
        <Row at={at} of={name} names={["use_from_s", "use_until_s", "ground_c"]} />
        {field("leads")}
        {["", "heat_balance"].includes(textAt(space, "leads")) ? null : field("leads_reason")}
      </More>
      <Skin space={space} at={at} name={name} />
    </Section>
  );
}

function Skin({ space, at, name }: { space: Document; at: string; name: string }) {
  const store = useJobStore();
  const stage = useStage("need");
  const parts = listAt(space, "skin");
  const put = (next: Json[]) => store.edit(`${at}.skin`, next);
  const derived = stage?.tables["skins"]?.find((s) => s["space"] === space["id"] && s["listed"] === false);
  const fresh = () => ({
    id: freshId(
      "part",
      parts.map((p) => textAt(p, "id")),
    ),
    name: t`Part ${parts.length + 1}`,
    against: "outside",
  });
  return (
    <>
      <h4 className="mt-3 font-semibold">
        <Trans>Walls, roof and floor of {name}</Trans>
      </h4>
      {parts.length === 0 ? ["shell", "floor"].map((f) => <JobField key={f} path={`${at}.${f}`} of={name} />) : null}
      <ul>
        {parts.map((part, n) => {
          const here = `${at}.skin[${n}]`;
          const of = textAt(part, "name") || t`Part ${n + 1}`;
          return (
            <li key={textAt(part, "id")} className="grid grid-cols-[1fr_1.4fr_5.5rem] gap-1.5 border-b border-hair py-1.5">
              <JobField layout="bare" of={of} path={`${here}.name`} />
              <JobField layout="bare" of={of} path={`${here}.skin`} />
              <JobField layout="bare" of={of} path={`${here}.area_m2`} />
              <JobField layout="bare" of={of} path={`${here}.against`} />
              {textAt(part, "skin") === "own" ? <JobField layout="bare" of={of} path={`${here}.u_w_per_m2k`} /> : <span />}
              <Button data-testid="remove" look="quiet" onClick={() => put(parts.filter((p) => p !== part))}>
                <Trans>
                  Remove<span className="sr-only"> {of}</span>
                </Trans>
              </Button>
            </li>
          );
        })}
      </ul>
      <div className="flex flex-wrap gap-2 pt-2">
        {derived ? <Button onClick={() => put(derived["parts"] as Json[])}>{t`Edit walls, roof and floor`}</Button> : null}
        <Button onClick={() => put([...parts, fresh()])}>
          <Trans>
            Add wall, roof or floor part<span className="sr-only"> to {name}</span>
          </Trans>
        </Button>
      </div>
    </>
  );
}

const WarmUp = memo(function WarmUp({ stage }: { stage: Stage | null }) {
  const q = useQuantities();
  const rows = stage?.tables["warm_up"] ?? [];
  if (rows.length === 0) return null;
  const most = Math.max(...rows.map((r) => r.output_w));
  return (
    <CaptionedTable
      caption={t`What a shorter warm-up time needs, all spaces from cold`}
      heads={[
        { word: t`Warm-up time` },
        { word: t`Heat to install`, right: true },
        { word: t`Extra over the heat loss`, right: true },
        { word: t`Compared`, ears: true, className: "w-2/5" },
      ]}
    >
      {rows.map((r) => (
        <tr key={r.time_s} className="border-t border-hair">
          <th scope="row" className="py-0.5 font-medium">
            {q.show(r.time_s, "duration")}
          </th>
          <td className="text-right">{q.show(r.output_w, "heat_flow")}</td>
          <td className="text-right">{q.show(r.extra_w, "heat_flow")}</td>
          <td className="pl-4">
            <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2 w-full" aria-hidden="true">
              <rect width={(100 * (r.output_w - r.extra_w)) / most} height="8" className="fill-gas" />
              <rect
                x={(100 * (r.output_w - r.extra_w)) / most}
                width={(100 * r.extra_w) / most}
                height="8"
                className="fill-gas-wash"
              />
            </svg>
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
});
