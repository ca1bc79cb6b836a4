// Picking one way through the tree of the fuel path, from the vessel to one heater and its space.
import type { PathNode } from "../api/client";

/** The heaters' inlets, at which ways end. */
export function inlets(path: PathNode[]): PathNode[] {
  return path.filter((n) => n.kind === "appliance");
}

/** The nodes from the vessel to an inlet, and the space behind it; all of them in order where there is no inlet. */
export function wayTo(path: PathNode[], inletId: string | undefined): PathNode[] {
  const byId = new Map(path.map((n) => [n.id, n]));
  let node = inletId === undefined ? undefined : byId.get(inletId);
  if (!node) return path;
  const way: PathNode[] = [];
  const seen = new Set<string>();
  while (node && !seen.has(node.id)) {
    way.unshift(node);
    seen.add(node.id);
    node = byId.get(node.after);
  }
  const space = path.find((n) => n.kind === "space");
  return space ? [...way, space] : way;
}
