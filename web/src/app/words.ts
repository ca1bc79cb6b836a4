// Which English the screens speak. British is written in the code; American says only what differs, in locales/en-US.
import { i18n, type Messages } from "@lingui/core";
import { compileMessage } from "@lingui/message-utils/compileMessage";

export type English = "en-GB" | "en-US";

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

/** Speak this English from now on; what is drawn after it does. */
export function speak(english: English) {
  if (i18n.locale !== english) i18n.activate(english);
}
