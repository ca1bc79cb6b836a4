// The readings of a visit as they are typed, at the unit or at a desk: kept until they are saved, asked about once, saved as one.
import { t } from "@lingui/core/macro";
import { useState } from "react";
import { v7 as uuidv7 } from "uuid";
import type { Used, VisitField } from "../../api/client";
import { useQuantities, useSurroundings } from "../../app/context";
import { useJob, useJobStore } from "../../job/context";
import type { RecordBody } from "../../outbox/db";
import { isFull } from "../../outbox/device";
import { type Answer, answersOf, implausible, momentOf } from "./visiting";

export interface VisitForm {
  textOf: (field: VisitField) => string;
  type: (field: VisitField, text: string) => void;
  answers: Answer[];
  /** What a field is asked about and nobody has agreed to yet, "" where there is nothing. */
  questionOf: (field: VisitField) => string;
  agree: (field: VisitField) => void;
  remark: string;
  photo: string;
  when: string;
  put: (what: "remark" | "photo" | "when", text: string) => void;
  /** How many are read; whether something is there to save and nothing of it is wrong. */
  read: number;
  ready: boolean;
  /** The first field that must be agreed to before it is saved. */
  doubtful: VisitField | null;
  trouble: string;
  /** Put in what an instrument gave; as long as it stands so, the entry names the instrument. */
  take: (field: VisitField, text: string, used: Used) => void;
  /** Save it; false where it was not kept. */
  save: () => Promise<boolean>;
}

export function useVisitForm(fields: VisitField[]): VisitForm {
  const store = useJobStore();
  const { drafts } = useJob();
  const { device, sender, person } = useSurroundings();
  const q = useQuantities();
  const [agreed, setAgreed] = useState<ReadonlySet<string>>(new Set());
  const [trouble, setTrouble] = useState("");
  const textOf = (f: VisitField) => drafts[`visit.${f.key}`] ?? "";
  const [taken, setTaken] = useState<Record<string, { text: string; used: Used }>>({});
  const byOf = (f: VisitField) => (taken[f.key]?.text === textOf(f) ? taken[f.key]?.used : undefined);
  const word = (f: VisitField) => `${f.key} ${textOf(f)}`;
  const answers = answersOf(fields, textOf, q);
  const answerOf = (f: VisitField) => answers[fields.indexOf(f)] as Answer;
  const questionOf = (f: VisitField) => (agreed.has(word(f)) ? "" : implausible(f, answerOf(f), q));
  const [remark, photo, when] = [drafts["visit.remark"] ?? "", drafts["visit.photo"] ?? "", drafts["visit.when"] ?? ""];
  const read = answers.filter((a) => a.value !== null).length;
  const moment = momentOf(when);
  const ready = "at" in moment && !answers.some((a) => a.error) && (read > 0 || remark.trim() !== "" || photo !== "");
  const save = async () => {
    if (!("at" in moment) || !ready) return false;
    const common = { ...moment, visit: uuidv7(), by: person.name };
    const records = fields.flatMap((f): RecordBody[] => {
      const { value, typed } = answerOf(f);
      return value === null
        ? []
        : [
            {
              id: uuidv7(),
              ...common,
              ...f.body,
              ...(typeof value === "number"
                ? { value, as_typed: typed, ...(byOf(f) ? { source: "instrument", instrument: byOf(f) } : {}) }
                : { look: value }),
            },
          ];
    });
    if (remark.trim() !== "" || photo !== "") records.push({ id: uuidv7(), ...common, kind: "note", remark: remark.trim(), photo });
    try {
      await device.recordEntries(store.id, records);
    } catch (problem) {
      if (!isFull(problem)) throw problem;
      setTrouble(
        t`This device has no room left, so this visit was not saved. Save the job to a file, make room, and save the visit again.`,
      );
      return false;
    }
    setTrouble("");
    for (const key of [...fields.map((f) => f.key), "remark", "photo", "when"]) store.draft(`visit.${key}`, null);
    sender.wake();
    return true;
  };
  return {
    textOf,
    type: (f, text) => store.draft(`visit.${f.key}`, text === "" ? null : text),
    answers,
    questionOf,
    agree: (f) => setAgreed(new Set([...agreed, word(f)])),
    take: (f, text, used) => {
      store.draft(`visit.${f.key}`, text);
      setTaken({ ...taken, [f.key]: { text, used } });
    },
    remark,
    photo,
    when,
    put: (what, text) => store.draft(`visit.${what}`, text === "" ? null : text),
    read,
    ready,
    doubtful: fields.find((f) => questionOf(f) !== "") ?? null,
    trouble,
    save,
  };
}
