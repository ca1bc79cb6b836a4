// What the machines and supplies of a job are called in its log, and how entries are kept.
import { useMemo } from "react";
import { useJob } from "../../job/context";
import type { RecordBody } from "../../outbox/db";

/** Keep entries on the device; false where it has no room. */
export type Keep = (records: RecordBody[]) => Promise<boolean>;
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
