import type { PathNode } from "../api/client";

type Sign = PathNode["kind"] | "generator";

/** The sign of a part as it lies on the pipe. */
export function NodeSign({ kind }: { kind: Sign }) {
  return (
    <svg width="44" height="32" viewBox="-22 -16 44 32" aria-hidden="true" className="fill-card stroke-frame" strokeWidth="1.6" strokeLinejoin="round">
      {SIGNS[kind]}
    </svg>
  );
}

const SIGNS: Record<Sign, React.ReactNode> = {
  vessel: (
    <>
      <path d="M-9 14v-20q0-6 6-6h6q6 0 6 6v20z" />
      <path d="M-4-12v-3h8v3" fill="none" />
      <path d="M-9 4h18" className="stroke-gas" />
    </>
  ),
  meter: (
    <>
      <rect x="-14" y="-11" width="28" height="24" rx="3" />
      <circle r="6" cy="1" />
      <path d="M0 1l3-4" fill="none" />
      <path d="M-7-11v-4M7-11v-4" className="stroke-gas" />
    </>
  ),
  tank: (
    <>
      <rect x="-16" y="-11" width="32" height="22" rx="6" />
      <path d="M-16 1h32" className="stroke-gas" />
      <path d="M-12 11v4M12 11v4" fill="none" />
    </>
  ),
  filter: (
    <>
      <path d="M-13-9h26L4 5v8h-8V5Z" />
      <path d="M-6-4h12M-3 1h6" fill="none" />
    </>
  ),
  drip_pot: <path d="M-14-8H4v7h-4V13h-8V-1h-6ZM4-8h10v7H4" />,
  test_port: (
    <>
      <rect x="-12" y="1" width="24" height="10" rx="2" />
      <path d="M0 1v-8M-5-7H5v-5H-5Z" />
    </>
  ),
  shut_off: <path d="M-9-7L9 7V-7L-9 7Z" />,
  regulator: (
    <>
      <circle r="11" />
      <path d="M-6 3l6-8 6 8" fill="none" />
    </>
  ),
  line: <rect x="-21" y="-6" width="42" height="12" rx="2" />,
  connector: <path d="M-20 0q5-9 10 0t10 0 10 0 10 0" fill="none" strokeWidth="2.4" />,
  appliance: (
    <>
      <rect x="-15" y="-14" width="30" height="28" rx="3" />
      <path d="M0 9q-7-4-3-11q1 3 3 3q0-6 3-9q5 9 3 14q-2 3-6 3z" className="fill-ember" stroke="none" />
    </>
  ),
  generator: (
    <>
      <rect x="-17" y="-10" width="34" height="21" rx="3" />
      <path d="M-13 11v3M13 11v3" fill="none" />
      <path d="M2-7L-5 2H0L-2 8L6-1H1Z" className="fill-ember" stroke="none" />
    </>
  ),
  space: <path d="M-16 12V-3L0-13L16-3V12Z" fill="none" strokeDasharray="3 2.5" />,
};
