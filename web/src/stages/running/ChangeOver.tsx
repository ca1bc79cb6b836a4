// Changing a vessel over by the book: begun from here, or from the code at the unit.
import { t } from "@lingui/core/macro";
import type { PlacedMachine } from "../../api/client";
import { useJob, useJobStore } from "../../job/context";
import { useBegin } from "../commissioning/useBegin";

/** The procedure by which a machine's vessel is changed over, null where it has none. */
export const changeOverOf = (machine: PlacedMachine) => machine.offered.find((o) => o.purpose === "change_over") ?? null;

/** One way to it for each machine that has one. */
export function ChangeOvers() {
  const { plan } = useJob();
  const guest = useJobStore().role === "guest";
  const machines = (plan?.machines ?? []).filter((m) => changeOverOf(m) !== null);
  if (machines.length === 0 || guest) return null;
  return (
    <section id="change-over" aria-label={t`Change over`} className="mb-3 border-b border-rule pb-3">
      <h3 className="pb-1 font-bold">{t`Start change-over procedure`}</h3>
      <div className="flex flex-wrap gap-2">
        {machines.map((m) => (
          <ChangeOver key={m.id} machine={m} />
        ))}
      </div>
    </section>
  );
}

interface ChangeOverProps {
  machine: PlacedMachine;
  /** How it looks, where it is one of several large ways. */
  look?: string;
}

export function ChangeOver({
  machine,
  look = "min-h-9 rounded-sm border-[1.5px] border-frame bg-card px-3 font-medium",
}: ChangeOverProps) {
  const { begin, trouble } = useBegin(machine.id);
  const found = changeOverOf(machine);
  if (!found) return null;
  return (
    <>
      <button type="button" data-testid="change-over" className={`text-left ${look}`} onClick={() => void begin(null, found.key)}>
        {found.title}: {machine.name}
      </button>
      {trouble ? (
        <p role="alert" className="text-stop">
          {trouble}
        </p>
      ) : null}
    </>
  );
}
