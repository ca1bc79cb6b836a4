// Siting in its parts: where everything stands, what the air bears, where it blows, what feeds it, who was asked.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Part, Row } from "../../api/client";
import { useDeferredValue } from "react";
import { useQuantities } from "../../app/context";
import { useEntries, useJob, useStage } from "../../job/context";
import { at, type Document, listAt, textAt } from "../../job/document";
import { StagePart, standsOn } from "../../ui/answers";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { More } from "../../ui/More";
import { Parts } from "../../ui/Parts";
import { AirCharts } from "./AirCharts";
import { Drawing } from "./Drawing";
import { Permits } from "./Permits";
import { Rows } from "./Rows";

const WHERE = ["position", "wall", "wall_m", "along_m", "blows"];
const ROOM = ["top_m", "front_m", "sides_m", "rear_m"];
const STANDS = ["service_m", "level_fraction", "ground", "guarded"];
const OF_ENGINE = ["flood_m", "pad_mass_kg", "pad_border_m"];
const CORD = ["source_v", "conductor", "length_m"];
const MORE_CORD = [
  "battery_j",
  "battery_kind",
  "battery_years",
  "battery_cut_off_v",
  "charger_w",
  "charged_s",
  "after",
  "feeder",
  "breaker_a",
  "rcd",
];
const VENT = ["cap", "opening_m", "sags"];
// What is asked of a vent by where its machine stands; the other waits under "More".
const VENT_INSIDE = ["rise_m", "slope_fraction", "bends"];
const VENT_OUTSIDE = ["wall_m"];
const MORE_VENT = ["height_m", "drain", "length_m", "diameter_m"];
const EARTHING = ["feeds_by", "transfer", "earth", "neutral", "moves_neutral"];

/** Where everything stands, breathes and blows. */
export function SitingStage() {
  const stage = useStage("siting");
  const speaks = (part: Part) => stage === null || stage.verdicts.some(standsOn(part));
  return (
    <Parts
      stage={stage}
      parts={[
        { key: "places", word: t`Places`, page: <Places /> },
        { key: "air", word: t`Air inside`, matters: speaks("air"), page: <Air /> },
        { key: "blowing", word: t`Vents and ducts`, matters: speaks("blowing"), page: <Blowing /> },
        { key: "power", word: t`Power leads and earth`, matters: speaks("power"), page: <Power /> },
        {
          key: "permits",
          word: t`Permits and approvals`,
          page: <StagePart given={<Permits />} stage={stage} part="permits" />,
        },
      ]}
    />
  );
}

const Head = ({ children }: { children: React.ReactNode }) => (
  <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 text-base font-bold first:mt-0">{children}</h3>
);

/** Which sorts of machine the job has. */
function useSorts() {
  const { document } = useJob();
  return { heaters: listAt(document, "equipment.heaters").length > 0, sets: listAt(document, "equipment.generators").length > 0 };
}

function Fields({ at: place, names, none, whose }: { at: string; names: string[]; none?: string; whose?: string }) {
  return names.map((name) => (
    <JobField key={name} path={`${place}.${name}`} {...(none ? { none } : {})} {...(whose ? { of: whose } : {})} />
  ));
}

function Places() {
  const stage = useStage("siting");
  const { document } = useJob();
  const { sets } = useSorts();
  const spaced = listAt(document, "need.spaces").length > 0;
  const building = ["length_m", "width_m", "eave_m", "skin"].map((n) => `siting.building.${n}`);
  const stands = [...STANDS, ...(sets ? OF_ENGINE : [])];
  return (
    <StagePart
      above={<Drawing />}
      given={
        <>
          <Head>{t`At every machine`}</Head>
          <Fields at="siting.usual" names={[...WHERE, ...ROOM]} />
          <More what={t`level, ground, fence, room to work`} paths={stands.map((n) => `siting.usual.${n}`)}>
            <Fields at="siting.usual" names={stands} />
          </More>
          <Others names={[...WHERE, ...ROOM, ...stands]} />
          <Vessels />
          <Head>{t`Doors, windows, vents of the building`}</Head>
          <Rows
            list="siting.openings"
            stem="opening"
            one={t`opening`}
            many={t`openings`}
            addWords={t`Add opening`}
            fields={["name", "wall", "along_m", "stands"]}
            more={["width_m", "height_m", "sill_m", "free_fraction"]}
            fresh={{ wall: "front", along_m: 1, width_m: 1, height_m: 2, stands: "shut" }}
            none={t`None entered. Exhausts and cylinders are judged against every opening.`}
          />
          <Head>{t`Building`}</Head>
          {spaced ? (
            <More what={t`its own size, if not that of the first space`} paths={building}>
              <Fields at="siting.building" names={["length_m", "width_m", "eave_m", "skin"]} />
            </More>
          ) : (
            <Fields at="siting.building" names={["length_m", "width_m", "eave_m", "skin"]} />
          )}
          <JobField path="siting.building.north_deg" />
          {sets ? <JobField path="siting.air.wind_from_deg" /> : null}
        </>
      }
      stage={stage}
      part="places"
    />
  );
}

/** Where the vessels of each supply stand: their distance from the wall, and where along it. */
function Vessels() {
  const { document } = useJob();
  const { all, add } = useEntries("siting.vessels", "");
  const held = listAt(document, "supplies")
    .map((s, n) => ({ s, n }))
    .filter(({ s }) => textAt(s, "fuel") === "propane" || !textAt(s, "fuel"));
  return held.map(({ s, n }) => {
    const id = textAt(s, "id");
    const name = textAt(s, "name");
    const place = all.findIndex((v) => textAt(v, "id") === id);
    return (
      <section key={id} aria-label={t`Cylinders ${name}`}>
        <Head>
          <Trans>Cylinders and tanks{name ? `: ${name}` : ""}</Trans>
        </Head>
        <JobField path={`supplies[${n}].storage.to_canvas_m`} label={t`To canvas or wall`} />
        {place < 0 ? (
          <Button look="quiet" onClick={() => add({ id, wall: "back", along_m: 2 })}>{t`Add them to the drawing`}</Button>
        ) : (
          <Fields at={`siting.vessels[${place}]`} names={["wall", "along_m", "level", "guarded"]} whose={t`Cylinders ${name}`} />
        )}
      </section>
    );
  });
}

/** Machines that stand otherwise than the rest: what is left empty is as at all of them. */
function Others({ names, options = {} }: { names: string[]; options?: Record<string, { value: string; reads: string }[]> }) {
  const { plan } = useJob();
  const { all, add, remove } = useEntries("siting.places", "");
  const nameOf = (id: string) => plan?.machines.find((m) => m.id === id)?.name ?? id;
  const free = (plan?.machines ?? []).filter((m) => !all.some((p) => textAt(p, "id") === m.id));
  return (
    <>
      {all.map((place, n) => {
        const id = textAt(place, "id");
        const whose = nameOf(id);
        return (
          <section key={id} id={id} aria-label={whose}>
            <h3 className="mt-4 flex items-baseline justify-between border-t-[1.5px] border-frame pt-2 text-base font-bold">
              <Trans>
                {whose}, where it differs
                <Button look="quiet" onClick={() => remove(place)}>
                  Place it like the others<span className="sr-only"> {whose}</span>
                </Button>
              </Trans>
            </h3>
            {names.map((name) => {
              const choices = options[name.split(".").at(-1) ?? ""];
              return (
                <JobField
                  key={name}
                  of={whose}
                  path={`siting.places[${n}].${name}`}
                  none={t`like the others`}
                  {...(choices ? { options: choices } : {})}
                />
              );
            })}
          </section>
        );
      })}
      {(plan?.machines.length ?? 0) > 1 && free.length > 0 ? (
        <div className="flex flex-wrap gap-3 pt-2">
          {free.map((m) => (
            <Button data-testid="own-place" key={m.id} look="quiet" onClick={() => add({ id: m.id })}>
              <Trans>
                {m.name} ({m.id}) is placed differently
              </Trans>
            </Button>
          ))}
        </div>
      ) : null}
    </>
  );
}

function Air() {
  const stage = useStage("siting");
  const late = useDeferredValue(stage);
  const [course] = late?.tables["air"] ?? [];
  return (
    <StagePart
      given={
        <>
          <Head>{t`In the air inside`}</Head>
          <Fields at="siting.air" names={["people", "sleeps", "co_alarm", "humidity_fraction", "wind_m_per_s"]} />
          <p className="pt-2 text-small text-muted">{t`Volume, air changes and temperatures come from the first space under Need. Open doors and windows come from Places. What burns inside without a vent, and what blows in from outside, comes from the machines.`}</p>
          <Head>{t`Openings that are open`}</Head>
          <Rows
            list="siting.openings"
            stem="opening"
            one={t`opening`}
            many={t`openings`}
            addWords={t`Add opening`}
            fields={["name", "stands", "width_m", "height_m"]}
            more={["sill_m", "free_fraction", "wall", "along_m"]}
            fresh={{ wall: "front", along_m: 0.5, width_m: 0.3, height_m: 0.3, stands: "open" }}
            none={t`None yet.`}
          />
        </>
      }
      stage={stage}
      part="air"
    >
      <AirCharts course={course ?? null} />
    </StagePart>
  );
}

type Ducted = Row<"ducts">;

function Blowing() {
  const stage = useStage("siting");
  const late = useDeferredValue(stage);
  const { document, plan } = useJob();
  const inside = at(document, "siting.usual.position") === "inside";
  const [first, rest] = inside ? [VENT_INSIDE, VENT_OUTSIDE] : [VENT_OUTSIDE, VENT_INSIDE];
  const more = [...rest, ...MORE_VENT];
  const heaters = (plan?.machines ?? [])
    .filter((m) => m.kind === "heater")
    .map((m) => ({ value: m.id, reads: `${m.name} (${m.id})` }));
  const ducts = listAt(document, "siting.ducts").map((d, n) => ({
    value: textAt(d, "id"),
    reads: textAt(d, "name") || t`duct ${n + 1}`,
  }));
  return (
    <StagePart
      given={
        <>
          <Head>{t`Vent or exhaust, at every machine`}</Head>
          <Fields at="siting.usual.vent" names={[...first, ...VENT]} />
          <More what={t`chimney height, drain hole, slope, length`} paths={more.map((n) => `siting.usual.vent.${n}`)}>
            <Fields at="siting.usual.vent" names={more} />
          </More>
          <Others names={[...VENT_OUTSIDE, ...VENT_INSIDE, ...VENT, ...MORE_VENT].map((n) => `vent.${n}`)} />
          <Head>{t`Ducts`}</Head>
          <Rows
            list="siting.ducts"
            stem="duct"
            one={t`duct`}
            many={t`ducts`}
            addWords={t`Add duct`}
            fields={["machine", "build", "diameter_m", "length_m"]}
            more={["name", "after", "carries", "leads_to", "bends", "insulated", "holes_m2", "booster_pa"]}
            fresh={{ machine: heaters[0]?.value ?? "", build: "flexible", diameter_m: 0.4, length_m: 3, leads_to: "space" }}
            options={{ machine: heaters, after: [{ value: "", reads: t`the heater` }, ...ducts] }}
            none={t`None. A heater outside needs a duct into the space.`}
          />
        </>
      }
      stage={stage}
      part="blowing"
    >
      <Ducts rows={late?.tables["ducts"] ?? []} />
    </StagePart>
  );
}

function Ducts({ rows }: { rows: Ducted[] }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <CaptionedTable
      caption={t`Air in the ducts, at the working point of the fan`}
      heads={[
        { word: t`Duct` },
        { word: t`Airflow`, right: true },
        { word: t`Pressure loss`, right: true },
        { word: t`Air in`, right: true },
        { word: t`Air out`, right: true },
        { word: t`Weakest outlet hole`, right: true },
      ]}
    >
      {rows.map((r) => (
        <tr key={r.id} className="border-t border-hair">
          <th scope="row" className="py-0.5 pr-2 font-medium">
            {r.name}
            <span className="block text-tiny font-normal text-muted">{r.machine_name}</span>
          </th>
          <td className="pl-3 text-right">{q.show(r.flow, "airflow")}</td>
          <td className="pl-3 text-right">{q.show(r.lost, "gas_pressure")}</td>
          <td className="pl-3 text-right">{q.show(r.in_c, "temperature")}</td>
          <td className="pl-3 text-right">{q.show(r.out_c, "temperature")}</td>
          <td className="pl-3 text-right">{r.even === null ? "" : q.show(r.even, "fraction")}</td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

function Power() {
  const stage = useStage("siting");
  const { document, plan } = useJob();
  const { heaters, sets } = useSorts();
  const leads = listAt(document, "siting.leads").map((d, n) => ({
    value: textAt(d, "id"),
    reads: textAt(d, "name") || t`lead ${n + 1}`,
  }));
  const after = [{ value: "", reads: t`the socket` }, ...leads];
  const feeder = [
    { value: "", reads: t`mains power or a battery` },
    ...(plan?.machines ?? []).filter((m) => m.kind === "generator").map((m) => ({ value: m.id, reads: `${m.name} (${m.id})` })),
  ];
  const options: Record<string, { value: string; reads: string }[]> = { after, feeder };
  const cord = (name: string) => (
    <JobField key={name} path={`siting.usual.cord.${name}`} {...(options[name] ? { options: options[name] } : {})} />
  );
  return (
    <StagePart
      given={
        <>
          {heaters ? (
            <>
              <Head>{t`Power lead to a heater’s fan`}</Head>
              {CORD.map(cord)}
              <More what={t`battery, shared lead, generator, breaker, RCD`} paths={MORE_CORD.map((n) => `siting.usual.cord.${n}`)}>
                {MORE_CORD.map(cord)}
              </More>
              <Head>{t`Shared or chained leads`}</Head>
              <Rows
                list="siting.leads"
                stem="lead"
                one={t`lead`}
                many={t`leads`}
                addWords={t`Add lead`}
                fields={["name", "conductor", "length_m", "after"]}
                more={["source_v", "feeder", "breaker_a", "rcd"]}
                fresh={{ conductor: "12 AWG", length_m: 15 } as Document}
                options={options}
                none={t`None. Every machine has a lead of its own.`}
              />
            </>
          ) : null}
          {sets ? (
            <>
              <Head>{t`Generators: earth, neutral, how they feed`}</Head>
              <Fields at="siting.usual.earthing" names={EARTHING} />
            </>
          ) : null}
          <Others
            names={[
              ...(heaters ? [...CORD, ...MORE_CORD].map((n) => `cord.${n}`) : []),
              ...(sets ? EARTHING.map((n) => `earthing.${n}`) : []),
            ]}
            options={options}
          />
        </>
      }
      stage={stage}
      part="power"
    />
  );
}
