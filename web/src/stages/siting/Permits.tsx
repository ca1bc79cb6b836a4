// Who must be asked before work begins, and what came of it.
import { Rows } from "./Rows";

/** Permits, authority, utility, licensed persons. */
export function Permits() {
  return (
    <>
      <p className="pb-1 text-small text-muted">Permit, authority, inspector, utility, licensed persons: before the first wrench. What is not needed here says so.</p>
      <Rows list="siting.permits" stem="permit" one="permit" fields={["name", "what", "stands", "on"]} more={["note"]} fresh={{ what: "permit", stands: "open" }} none="Nobody is listed yet." />
    </>
  );
}
