// Which English the screens speak. British is written in the code; American says only what differs, in locales/en-US.
import { i18n, type Messages } from "@lingui/core";
import { compileMessage } from "@lingui/message-utils/compileMessage";
import type { Person } from "../api/client";
import { type English, type Terms, sayLonger, sayTerms, worded } from "./terms";

const LOCALES: Record<English, string> = { british: "en-GB", american: "en-US" };

const american = import.meta.glob<Messages>("../../locales/en-US/*.po", { eager: true, import: "messages" });

// A sentence is taken apart once, however often it is drawn.
const compiled = new Map<string, ReturnType<typeof compileMessage>>();
i18n.setMessagesCompiler((sentence) => {
  const known = compiled.get(sentence) ?? compileMessage(sentence);
  compiled.set(sentence, known);
  return known;
});
i18n.load({ "en-GB": {}, "en-US": Object.assign({}, ...Object.values(american)) as Messages });
i18n.activate("en-GB");

// A sentence of the screens may hold words of the core, and these name their terms.
const plain = i18n._.bind(i18n) as (...asked: unknown[]) => string;
i18n._ = (...asked: unknown[]) => worded(plain(...asked));

// Tests draw the screens with longer words.
sayLonger(globalThis.localStorage?.getItem("ofen.words") === "longer");

/** The English that a person reads: their own choice, else the one that goes with their units. */
export const englishOf = ({ english, units }: Pick<Person, "english" | "units">): English =>
  english || (units === "us" ? "american" : "british");

/** Speak this English from now on; what is drawn after it does. */
export function speak(english: English, terms: Terms) {
  sayTerms(terms, english);
  if (i18n.locale !== LOCALES[english]) i18n.activate(LOCALES[english]);
}
