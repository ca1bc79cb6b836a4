import type { Vocabulary } from "../api/client";

/** How far up (0 bottom, 1 top) a gauge pressure stands on the core's scale: straight below, logarithmic above. */
export function height(pa: number, scale: Vocabulary["stair_scale"]): number {
  const held = Math.min(scale.most_pa, Math.max(scale.least_pa, pa));
  if (held <= scale.straight_to_pa)
    return (scale.straight_share * (held - scale.least_pa)) / (scale.straight_to_pa - scale.least_pa);
  return (
    scale.straight_share +
    ((1 - scale.straight_share) * Math.log(held / scale.straight_to_pa)) / Math.log(scale.most_pa / scale.straight_to_pa)
  );
}
