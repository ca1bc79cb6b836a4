// What the catalogue offers for the fuel of a job.
import { useSurroundings } from "../../app/context";

export type Options = { value: string; reads: string }[];

/** Entries of a list of the catalogue by name, those that go with the fuel. */
export function useNamed(fuel: string): (list: string) => Options {
  const { vocabulary } = useSurroundings();
  const goes: Record<string, (e: Record<string, unknown>) => boolean> = {
    regulators: (e) => e["gas"] === fuel,
    connectors: (e) => fuel !== "natural_gas" || e["for_natural_gas"] !== false,
  };
  const all: Record<string, { id: string; name: string }[]> = vocabulary.catalogue;
  return (list) => (all[list] ?? []).filter(goes[list] ?? (() => true)).map((e) => ({ value: e.id, reads: e.name }));
}
