import { t } from "@lingui/core/macro";
import { Button } from "../../ui/controls";
import { useHand } from "./hand";

/** The bar at the bottom: help at one side, the one thing to do at the other, under the thumb of the hand that is free. */
export function Act({ help, children }: { help: () => void; children: React.ReactNode }) {
  const { hand } = useHand();
  const right = hand === "right";
  return (
    <section
      data-testid="next-action"
      aria-label={t`Next action`}
      className={`sticky bottom-0 mt-auto grid gap-2.5 border-t-[1.5px] border-frame bg-rail px-4 pb-5 pt-3 ${right ? "grid-cols-[1fr_2.2fr]" : "grid-cols-[2.2fr_1fr]"}`}
    >
      {right ? <Help help={help} /> : null}
      {children}
      {right ? null : <Help help={help} />}
    </section>
  );
}

function Help({ help }: { help: () => void }) {
  return <Button data-testid="help" large onClick={help}>{t`Help`}</Button>;
}
