// What is being written to the device store this very moment, noted where writing needs no waiting: a tab closed in the middle of an edit loses nothing.
import type { Edit } from "../job/edits";

export type Note = { edits: Edit[] } | { draft: string; text: string | null };

const tab = Math.random().toString(36).slice(2);
const prefix = (person: number, job: string) => `ofen.journal.${person}.${job}.`;

/** The notes of one job, made by this tab. */
export class Journal {
  private readonly key: string;
  private notes: Note[] = [];

  constructor(person: number, job: string) {
    this.key = prefix(person, job) + tab;
  }

  note(note: Note) {
    // Of what stands in a field only the newest counts: an older note, left for want of room, would fill it again.
    if ("draft" in note) this.notes = this.notes.filter((n) => !("draft" in n && n.draft === note.draft));
    this.notes.push(note);
    this.put();
  }

  /** A note says something newer now. */
  changed() {
    this.put();
  }

  /** A note is in the device store now. */
  done(note: Note) {
    this.notes = this.notes.filter((n) => n !== note);
    this.put();
  }

  private put() {
    try {
      if (this.notes.length === 0) localStorage.removeItem(this.key);
      else localStorage.setItem(this.key, JSON.stringify(this.notes));
    } catch {
      // No room for the note: the device store itself will say so.
    }
  }
}

/** Take the notes that other tabs left behind when they were closed. */
export function takeNotes(person: number, job: string): Note[] {
  const start = prefix(person, job);
  const keys = Object.keys(localStorage).filter((k) => k.startsWith(start) && !k.endsWith(tab));
  return keys.flatMap((key) => {
    const notes = JSON.parse(localStorage.getItem(key) ?? "[]") as Note[];
    localStorage.removeItem(key);
    return notes;
  });
}
