// What a new job starts as: the usual path from cylinders to one heater, nothing filled in that only the site can tell.
import type { Document } from "../job/document";

const NEW_JOB: Document = {
  format: "ofen-job/2",
  name: "New job",
  need: {
    spaces: [
      {
        id: "space-1",
        name: "Space 1",
        skin: [
          { id: "part-1", name: "Walls" },
          { id: "part-2", name: "Roof" },
          { id: "part-3", name: "Floor", skin: "slab", against: "ground" },
        ],
      },
    ],
  },
  supplies: [
    {
      id: "supply-1",
      fuel: "propane",
      parts: [
        { kind: "shut_off", id: "shut-off", name: "Shut-off", after: "" },
        { kind: "regulator", id: "first-stage", name: "First stage", after: "shut-off" },
        { kind: "line", id: "line-a", name: "Line A", after: "first-stage", material: "lp_hose" },
        { kind: "regulator", id: "second-stage", name: "Second stage", after: "line-a" },
        { kind: "line", id: "line-b", name: "Line B", after: "second-stage", material: "steel_schedule_40" },
        { kind: "connector", id: "connector", name: "Connector", after: "line-b" },
        { kind: "appliance", id: "inlet-1", name: "Heater 1", after: "connector", machine: "heater-1" },
      ],
    },
  ],
};

/** An empty job for someone who sees quantities so: the mains of the place go with that. */
export function emptyJob(units: "metric" | "us"): Document {
  return { ...NEW_JOB, need: { ...(NEW_JOB["need"] as Document), system: units === "us" ? "split_120_240" : "single_230" } };
}
