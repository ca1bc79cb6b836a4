// What a new job starts as: the usual path from cylinders to one heater, nothing filled in that only the site can tell.
import { t } from "@lingui/core/macro";
import type { Document } from "../job/document";

const newJob = (): Document => ({
  format: "ofen-job/2",
  name: t`New job`,
  need: {
    spaces: [
      {
        id: "space-1",
        name: t`Space 1`,
        skin: [
          { id: "part-1", name: t`Walls` },
          { id: "part-2", name: t`Roof` },
          { id: "part-3", name: t`Floor`, skin: "slab", against: "ground" },
        ],
      },
    ],
  },
  supplies: [
    {
      id: "supply-1",
      fuel: "propane",
      parts: [
        { kind: "shut_off", id: "shut-off", name: t`Shut-off`, after: "" },
        { kind: "regulator", id: "first-stage", name: t`First stage`, after: "shut-off" },
        { kind: "line", id: "line-a", name: t`Line A`, after: "first-stage", material: "lp_hose" },
        { kind: "regulator", id: "second-stage", name: t`Second stage`, after: "line-a" },
        { kind: "line", id: "line-b", name: t`Line B`, after: "second-stage", material: "steel_schedule_40" },
        { kind: "connector", id: "connector", name: t`Connector`, after: "line-b" },
        { kind: "appliance", id: "inlet-1", name: t`Heater 1`, after: "connector", machine: "heater-1" },
      ],
    },
  ],
});

/** An empty job for someone who sees quantities so: the mains of the place go with that. */
export function emptyJob(units: "metric" | "us"): Document {
  return { ...newJob(), need: { ...(newJob()["need"] as Document), system: units === "us" ? "split_120_240" : "single_230" } };
}
