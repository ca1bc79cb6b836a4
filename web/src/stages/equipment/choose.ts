// Taking machines into a job: heaters with their inlets in the fuel path, generators.
import { t } from "@lingui/core/macro";
import { type Document, type Json, freshId, listAt, textAt } from "../../job/document";

/** So many of one model on one fuel. */
export interface Wanted {
  model: string;
  count: number;
  fuel: string;
}

type Changes = { path: string; value: Json }[];

/** The changes that put heaters for the spaces into the job, each with an inlet on the first supply of its fuel; those of valve bodies stay. */
export function choose(document: Document, wanted: Wanted[]): Changes {
  const usual = textAt(document, "equipment.heater_fuel") || "propane";
  const kept = listAt(document, "equipment.heaters").filter((h) => textAt(h, "serves") !== "");
  const ids = kept.map((h) => textAt(h, "id"));
  const fresh = wanted.flatMap((w) =>
    Array.from({ length: w.count }, () => {
      const id = freshId("heater", ids);
      ids.push(id);
      return { id, model: w.model, ...(w.fuel === usual ? {} : { fuel: w.fuel }) };
    }),
  );
  const supplies = listAt(document, "supplies");
  const fuels = supplies.map((s) => textAt(s, "fuel") || "propane");
  const hangOn = (n: number) => fresh.filter((h) => fuels.indexOf("fuel" in h ? h.fuel : usual) === n).map((h) => h.id);
  const sets = listAt(document, "equipment.generators").map((g) => textAt(g, "id"));
  return [
    { path: "equipment.heaters", value: [...fresh, ...kept] },
    ...supplies.map((s, n) => ({ path: `supplies[${n}].parts`, value: withInlets(s, hangOn(n), sets) })),
  ];
}

/** The parts of a supply with one inlet for each of these machines; those of the others that are there stay, the rest go. */
function withInlets(supply: Document, machines: string[], others: string[]): Json[] {
  const parts = listAt(supply, "parts");
  const inlets = parts.filter((p) => textAt(p, "kind") === "appliance");
  const hangsOn = textAt(inlets[0] ?? {}, "after") || textAt(parts.at(-1) ?? {}, "id");
  const kept = parts.filter((p) => textAt(p, "kind") !== "appliance" || [...machines, ...others].includes(textAt(p, "machine")));
  if (parts.length === 0) return kept;
  const served = new Set(kept.map((p) => textAt(p, "machine")));
  const ids = kept.map((p) => textAt(p, "id"));
  const added = machines
    .filter((h) => !served.has(h))
    .map((h) => {
      const id = freshId("inlet", ids);
      ids.push(id);
      return {
        kind: "appliance",
        id,
        name: h.replace("heater-", t`Heater `).replace("generator-", t`Generator `),
        after: hangsOn,
        machine: h,
      };
    });
  return [...kept, ...added];
}

/** The change that hangs heaters at a valve body, in the place of those that hung there. */
export function chooseForValve(document: Document, valve: string, wanted: Wanted): Changes {
  const kept = listAt(document, "equipment.heaters").filter((h) => textAt(h, "serves") !== valve);
  const ids = kept.map((h) => textAt(h, "id"));
  const fresh = Array.from({ length: wanted.count }, () => {
    const id = freshId("heater", ids);
    ids.push(id);
    return { id, model: wanted.model, serves: valve };
  });
  return [{ path: "equipment.heaters", value: [...kept, ...fresh] }];
}

/** One generator and what it feeds. */
export interface WantedSet {
  model: string;
  fuel: string;
  feeds: string;
}

/** The change that puts generators into the job. */
export function chooseSets(document: Document, wanted: WantedSet[]): Changes {
  const usual = textAt(document, "equipment.generator_fuel") || "any";
  const made = wanted.map((w, n) => ({
    id: `generator-${n + 1}`,
    model: w.model,
    feeds: w.feeds,
    ...(w.fuel === usual ? {} : { fuel: w.fuel }),
  }));
  const supplies = listAt(document, "supplies");
  const fuels = supplies.map((s) => textAt(s, "fuel") || "propane");
  const hangOn = (n: number) => wanted.flatMap((w, k) => (fuels.indexOf(w.fuel) === n ? [made[k]?.id ?? ""] : []));
  const heaters = listAt(document, "equipment.heaters").map((h) => textAt(h, "id"));
  return [
    { path: "equipment.generators", value: made },
    ...supplies.map((s, n) => ({
      path: `supplies[${n}].parts`,
      value: withInlets(s, hangOn(n), [...heaters, ...made.map((g) => g.id)]),
    })),
  ];
}
