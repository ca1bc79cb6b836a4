// The team's instruments: fetched where there is signal, as this device knows them where there is none.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type Instrument, type InstrumentKind, Problem, type Used, answer, api } from "../api/client";
import { nowIs } from "../api/lists";
import { useSurroundings } from "../app/context";
import type { Device } from "../outbox/device";

const FACT = "instruments";

async function fetched(device: Device): Promise<Instrument[]> {
  try {
    const found = await answer(api.GET("/api/instruments"));
    await device.db.facts.put({ key: FACT, value: JSON.stringify(found) });
    return found;
  } catch (problem) {
    const kept = await device.db.facts.get(FACT);
    if (!(problem instanceof Problem) || problem.status !== 0 || !kept) throw problem;
    return JSON.parse(kept.value) as Instrument[];
  }
}

/** The instruments, and a way to put others in their place. */
export function useShelf() {
  const { device, person } = useSurroundings();
  const client = useQueryClient();
  const key = ["instruments", person.team_id];
  const found = useQuery({ queryKey: key, queryFn: () => fetched(device), staleTime: 60_000 });
  return {
    instruments: found.data ?? [],
    problem: found.error,
    isWaiting: found.isPending,
    put: (all: Instrument[]) => nowIs(client, key, all),
  };
}

export type Channel = Instrument["sheet"]["channels"][number];

export const isConnected = (i: Instrument): boolean => i.sheet.link !== "none";
export const nameOf = (i: Instrument): string => i.sheet.name || i.key;

export interface Source {
  key: string;
  instrument: Instrument;
  /** The value it gives by itself; null where it is typed off it. */
  channel: Channel | null;
}

/** What a quantity can be read by: each value that comes by itself, each instrument it is typed off; those by the machine first. */
export function sourcesFor(instruments: Instrument[], kinds: InstrumentKind[], quantity: string, unit: string): Source[] {
  const reads = new Set(kinds.filter((k) => k.reads.includes(quantity)).map((k) => k.key));
  const own = instruments.filter((i) => reads.has(i.sheet.kind));
  const found = own.flatMap((instrument): Source[] => {
    const channels = isConnected(instrument) ? instrument.sheet.channels.filter((c) => c.quantity === quantity) : [];
    return channels.length > 0
      ? channels.map((channel) => ({ key: `${instrument.key}/${channel.id}`, instrument, channel }))
      : [{ key: instrument.key, instrument, channel: null }];
  });
  const near = (s: Source) => (s.instrument.key.includes(unit) ? 0 : 1);
  return found.sort((a, b) => near(a) - near(b));
}

/** An instrument as it goes on record with a reading: its error at this value by its own share, if that is known. */
export function usedAt(instrument: Instrument, kinds: InstrumentKind[], value: number, taken: boolean, ageS: number): Used {
  const share = instrument.sheet.error_fraction ?? kinds.find((k) => k.key === instrument.sheet.kind)?.error_fraction ?? null;
  return { ...instrument.used, taken, age_s: ageS, error: share === null ? null : Math.abs(value) * share };
}
