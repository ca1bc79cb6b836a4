// The core's texts name a term, as {term:petrol}; whoever draws them picks the reader's word for it.
import type { Vocabulary } from "../api/client";

export type English = "british" | "american";
export type Terms = Vocabulary["terms"];

let terms: Terms = {};
let english: English = "british";

const NAMED = /\{term:(\w+)\}/g;

/** Know these terms, and say them in this English from now on. */
export function sayTerms(known: Terms, as: English) {
  terms = known;
  english = as;
}

/** A text with every term in it said; one that is not known is said as it is named. */
export function worded(text: string): string {
  if (!text.includes("{term:")) return text;
  return text.replace(NAMED, (_, name: string) => {
    const word = terms[name.toLowerCase()]?.[english] ?? name.replaceAll("_", " ");
    return name[0] === name[0]?.toLowerCase() ? word : (word[0] ?? "").toUpperCase() + word.slice(1);
  });
}
