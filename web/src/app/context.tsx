// Who is signed in, the vocabulary, and how this person sees quantities.
import { i18n } from "@lingui/core";
import { createContext, use, useMemo } from "react";
import type { Person, QuantityKind, Verdict, Vocabulary } from "../api/client";
import type { Device } from "../outbox/device";
import type { Sender } from "../outbox/sender";
import { type Kinds, type System, fieldText, inUnits, parse, shown } from "../quantities/quantity";
import type { Known } from "./who";

export interface Surroundings {
  person: Known;
  vocabulary: Vocabulary;
  kinds: Kinds;
  /** What this device keeps for the person, and what sends it. */
  device: Device;
  sender: Sender;
  /** How far this device's clock is ahead of the server's. */
  clockOffS: number;
  signIn: (person: Known) => void;
  change: (what: Partial<Pick<Person, "units" | "english" | "theme">>) => void;
  /** Work in another of one's teams from now on. */
  workIn: (team: number) => void;
  /** What the server has told of this person, their teams among it. */
  toldOfMe: (told: Person) => void;
  signOut: () => void;
}

export const SurroundingsContext = createContext<Surroundings | null>(null);

export function useSurroundings(): Surroundings {
  const found = use(SurroundingsContext);
  if (!found) throw new Error("used outside of a signed-in page");
  return found;
}

export interface Quantities {
  system: System;
  kind: (name: string) => QuantityKind;
  show: (value: number, kind: string, figures?: number) => string;
  /** As it stands in a field. */
  field: (value: number, kind: string) => string;
  split: (value: number, kind: string, figures?: number) => { number: string; unit: string };
  read: (text: string, kind: string) => { value: number } | { error: string };
  say: (template: string, values: Verdict["values"]) => string;
}

/** A time written as the reader's English writes it: "24 Nov" or "Nov 24". */
export const dated = (at: string | number, as: Intl.DateTimeFormatOptions): string =>
  new Date(typeof at === "number" ? at * 1000 : at).toLocaleString(i18n.locale || "en-GB", { hourCycle: "h23", ...as });

/** A time as a person says it: "Tue 24 Nov, 06:30", or short, "Tue 06:30". */
export function moment(at: string | number, length: "long" | "short" = "long"): string {
  const date = length === "long" ? ({ day: "numeric", month: "short" } as const) : {};
  return dated(at, { weekday: "short", ...date, hour: "2-digit", minute: "2-digit" });
}

export function quantitiesFor(kinds: Kinds, system: System): Quantities {
  const kind = (name: string) => {
    const found = kinds[name];
    if (!found) throw new Error(`unknown kind of quantity ${name}`);
    return found;
  };
  const show = (value: number, name: string, figures = 3) =>
    name === "moment" ? moment(value) : shown(value, kind(name), system, figures);
  return {
    system,
    kind,
    show,
    field: (value, name) => fieldText(value, kind(name), system),
    split: (value, name, figures = 3) => inUnits(value, kind(name), system, figures),
    read: (text, name) => parse(text, kind(name), system),
    say: (template, values) =>
      template.replace(/\{(\w+)\}/g, (whole, name: string) => {
        const found = values[name];
        if (found === undefined) return whole;
        // A number and its unit never part at the end of a line.
        return typeof found === "string" ? found : show(found.value, found.kind).replaceAll(" ", "\u00a0");
      }),
  };
}

/** Reading and writing quantities as this person sees them. */
export function useQuantities(): Quantities {
  const { kinds, person } = useSurroundings();
  return useMemo(() => quantitiesFor(kinds, person.units), [kinds, person.units]);
}
