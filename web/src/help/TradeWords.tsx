// A label whose trade word has a dotted underline: pressed, it says what the glossary says of it.
import { useState } from "react";
import { GLOSSARY } from "./glossary";
import { tradeWordIn } from "./guide";

/** The words of a label, with the trade word in it explained where it stands. */
export function TradeWords({ words }: { words: string }) {
  const [open, setOpen] = useState(false);
  const marked = tradeWordIn(words, GLOSSARY);
  if (!marked) return <>{words}</>;
  return (
    <>
      {marked.before}
      <span
        data-testid="trade-word"
        title={marked.means}
        onClick={(event) => {
          // The label would move the hand into its field.
          event.preventDefault();
          setOpen(!open);
        }}
        onKeyDown={(event) => event.key === "Escape" && setOpen(false)}
        className="cursor-help underline decoration-dotted underline-offset-2"
      >
        {marked.word}
      </span>
      {marked.after}
      {open ? (
        <span role="note" className="block whitespace-normal bg-rail px-1.5 py-1 text-small font-normal text-ink-2">
          {marked.means}
        </span>
      ) : null}
    </>
  );
}
