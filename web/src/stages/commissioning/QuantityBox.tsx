// One reading typed with a thumb: the number, its unit to turn, and keys where there is no keyboard.
import { t } from "@lingui/core/macro";
import { useQuantities } from "../../app/context";
import { unitOf } from "../../quantities/quantity";
import { Button } from "../../ui/controls";
import type { Typed } from "./typed";

const KEYS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", ".", "0", "⌫"];

interface QuantityBoxProps {
  /** What is read, for who does not see it. */
  name: string;
  typed: Typed;
  /** What Enter does. */
  enter?: () => void;
  /** Keys for the thumb on a small screen; off where several boxes stand together. */
  keys?: boolean;
  /** What is said of the reading, under it and over the keys. */
  children?: React.ReactNode;
}

/** A box for one quantity. */
export function QuantityBox({ name, typed, enter, keys = true, children }: QuantityBoxProps) {
  const kind = useQuantities().kind(typed.kind);
  const place = kind.units.findIndex((u) => u === unitOf(kind, typed.unit));
  const turn = () => typed.setUnit(kind.units[(place + 1) % kind.units.length]?.symbol ?? typed.unit);
  const { text, setText } = typed;
  return (
    <div>
      <div className="grid grid-cols-[1fr_5.75rem] gap-2.5">
        <input
          aria-label={name}
          data-testid="reading"
          value={text}
          inputMode="decimal"
          autoComplete="off"
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && enter?.()}
          className="min-w-0 rounded-sm border-2 border-frame bg-card px-3.5 py-1 text-right text-huge font-bold"
        />
        <Button large onClick={turn}>
          <span className="sr-only">{t`Unit: `}</span>
          {typed.unit}
        </Button>
      </div>
      {typed.error ? (
        <p role="alert" className="pt-1 text-base text-stop">
          {typed.error}
        </p>
      ) : null}
      {children}
      {keys ? (
        <div className="mt-2 grid grid-cols-3 gap-1.5 sm:hidden">
          {KEYS.map((k) => (
            <button
              key={k}
              type="button"
              aria-label={k === "⌫" ? t`Delete the last digit` : k}
              onClick={() => setText(k === "⌫" ? text.slice(0, -1) : text + k)}
              className="min-h-12 rounded-sm border-[1.5px] border-edge bg-card text-xl font-semibold"
            >
              {k}
            </button>
          ))}
        </div>
      ) : null}
    </div>
  );
}
