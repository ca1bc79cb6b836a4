// One scale for tank pressure, inches of water and the slight vacuum of a demand regulator: straight where the low
// pressures and windows are, logarithmic above.
export const STRAIGHT_TO_PA = 4000;
const LEAST_PA = -500;
const MOST_PA = 1_600_000;
const STRAIGHT_SHARE = 0.6;

/** How far up (0 bottom, 1 top) a gauge pressure stands. */
export function height(pa: number): number {
  const held = Math.min(MOST_PA, Math.max(LEAST_PA, pa));
  if (held <= STRAIGHT_TO_PA) return (STRAIGHT_SHARE * (held - LEAST_PA)) / (STRAIGHT_TO_PA - LEAST_PA);
  return STRAIGHT_SHARE + ((1 - STRAIGHT_SHARE) * Math.log(held / STRAIGHT_TO_PA)) / Math.log(MOST_PA / STRAIGHT_TO_PA);
}

/** The lines of the scale: pressure and how a system of units names it. */
export function marks(system: "metric" | "us"): { pa: number; text: string }[] {
  const inwc = 249.08891;
  const psi = 6894.757;
  return system === "metric"
    ? [
        { pa: 0, text: "0" },
        { pa: 2000, text: "20" },
        { pa: 4000, text: "40 mbar" },
        { pa: 100_000, text: "1 bar" },
        { pa: 1_000_000, text: "10 bar" },
      ]
    : [
        { pa: 0, text: "0" },
        { pa: 7 * inwc, text: "7" },
        { pa: 14 * inwc, text: "14 in w.c." },
        { pa: 10 * psi, text: "10 psi" },
        { pa: 100 * psi, text: "100 psi" },
      ];
}
