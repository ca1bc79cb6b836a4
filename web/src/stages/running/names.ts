// What the machines and supplies of a job are called in its log.
import { useMemo } from "react";
import { useJob } from "../../job/context";

/** By id. */
export type Names = Map<string, string>;

/** The supplies and machines of the job by id, as they are called. */
export function useNames(): Names {
  const { plan } = useJob();
  return useMemo(() => {
    const machines = plan?.machines ?? [];
    const twice = (name: string) => machines.filter((m) => m.name === name).length > 1;
    return new Map([
      ...(plan?.supplies ?? []).map((s): [string, string] => [s.id, s.name || s.id]),
      ...machines.map((m): [string, string] => [m.id, twice(m.name) ? `${m.name} (${m.id})` : m.name]),
    ]);
  }, [plan]);
}
