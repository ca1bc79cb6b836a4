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

// A language of no people: every word half as long again, to find where a screen is too narrow for another language.
let isPseudo = false;
const WORD = /\p{L}{3,}/gu;
const LONGER = "\u00f8";

/** Say every word half as long again from now on. */
export function sayLonger(yes: boolean) {
  isPseudo = yes;
}

/** A text whose words are half as long again; the second time it stays. */
export const longer = (text: string) =>
  text.includes(LONGER) ? text : text.replace(WORD, (word) => word + LONGER.repeat(Math.ceil(word.length / 2)));

/** Whether a text is not drawn as it stands. */
export const isOtherwise = (text: string) => isPseudo || text.includes("{term:");

/** A text with every term in it said; one that is not known is said as it is named. */
export function worded(text: string): string {
  if (isPseudo) return longer(said(text));
  return text.includes("{term:") ? said(text) : text;
}

function said(text: string): string {
  return text.replace(NAMED, (_, name: string) => {
    const word = terms[name.toLowerCase()]?.[english] ?? name.replaceAll("_", " ");
    return name[0] === name[0]?.toLowerCase() ? word : (word[0] ?? "").toUpperCase() + word.slice(1);
  });
}
