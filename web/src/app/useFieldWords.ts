// How a field of the document and its values are told to a person.
import { t } from "@lingui/core/macro";
import { useJob } from "../job/context";
import { type Json, at } from "../job/document";
import { specAt } from "../job/schema";
import { writeTyped } from "../ui/JobField";
import { useQuantities, useSurroundings } from "./context";

export interface FieldWords {
  /** What the field is called. */
  label: (path: string) => string;
  /** A value of it as a person reads it. */
  value: (path: string, value: Json | undefined) => string;
}

export function useFieldWords(): FieldWords {
  const { vocabulary } = useSurroundings();
  const { document } = useJob();
  const q = useQuantities();
  const spec = (path: string) => specAt(vocabulary.job_schema, path, at(document, `${path.replace(/\.[^.]*$/, "")}.kind`));
  return {
    label: (path) => spec(path)?.title || path,
    value: (path, value) => {
      const found = spec(path);
      if (value === undefined) return t`blank`;
      if (typeof value === "object" && value !== null) return Array.isArray(value) ? t`${value.length} entries` : "changed";
      const choice = found?.options?.find((o) => o.value === value)?.reads;
      return choice ?? ((found ? writeTyped(value, found, q) : String(value)) || "—");
    },
  };
}
