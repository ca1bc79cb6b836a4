import { Button } from "../../ui/controls";

/** The bar at the bottom: the ledger of bypasses and opened joints at the left, the one thing to do at the right. */
export function Act({ help, children }: { help: () => void; children: React.ReactNode }) {
  return (
    <section aria-label="Next action" className="sticky bottom-0 grid grid-cols-[1fr_2.2fr] gap-2.5 border-t-[1.5px] border-frame bg-rail px-4 pb-5 pt-3">
      <Button large onClick={help}>
        Bypass, joint
      </Button>
      {children}
    </section>
  );
}
