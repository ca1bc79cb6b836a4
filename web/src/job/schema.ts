// What the job schema says of a path: label, kind of quantity, range, choices. Labels and ranges live in the core.
import { type Json, steps } from "./document";

export interface Spec {
  title: string;
  description: string;
  kind: string | null;
  whole: boolean;
  /** A date: its field is the browser's own. */
  day: boolean;
  low: number | null;
  high: number | null;
  longest: number | null;
  options: { value: string; reads: string }[] | null;
  /** What counts where nothing is given. */
  fallback: string | number | null;
}

type Node = { [key: string]: unknown };
const isNode = (v: unknown): v is Node => typeof v === "object" && v !== null && !Array.isArray(v);

function property(node: Node, name: string): Node | null {
  const properties = node["properties"];
  const found = isNode(properties) ? properties[name] : undefined;
  return isNode(found) ? found : null;
}

function inUnion(items: Node, name: string, kind: Json | undefined): Node | null {
  const either = items["oneOf"];
  if (!Array.isArray(either)) return property(items, name);
  const fits = either.filter(isNode).find((n) => property(n, "kind")?.["const"] === kind);
  return fits ? property(fits, name) : null;
}

function nodeAt(schema: Node, path: string, kind?: Json): Node | null {
  let node: Node | null = schema;
  for (const step of steps(path)) {
    if (!node) return null;
    if (typeof step !== "string") node = isNode(node["items"]) ? node["items"] : null;
    else node = inUnion(node, step, kind);
  }
  return node;
}

/** The format a document of today has. */
export const formatOf = (schema: Node): string => String(property(schema, "format")?.["const"]);

/** The names of the plain values of an entry, as the schema orders them; `kind` tells entries of a mixed list apart. */
export function namesAt(schema: Node, path: string, kind?: string): string[] {
  const node = nodeAt(schema, path, kind);
  const either =
    node && Array.isArray(node["oneOf"]) ? node["oneOf"].filter(isNode).find((n) => property(n, "kind")?.["const"] === kind) : node;
  const properties = either && isNode(either["properties"]) ? either["properties"] : {};
  return Object.entries(properties)
    .filter(
      ([name, spec]) => name !== "kind" && name !== "id" && isNode(spec) && spec["type"] !== "array" && spec["type"] !== "object",
    )
    .map(([name]) => name);
}

/** The spec of the value at a path; `kind` tells entries of a mixed list apart. */
export function specAt(schema: Node, path: string, kind?: Json): Spec | null {
  const node = nodeAt(schema, path, kind);
  if (!node) return null;
  const text = (name: string) => (typeof node[name] === "string" ? node[name] : "");
  const number = (name: string) => (typeof node[name] === "number" ? node[name] : null);
  const options = node["x-options"];
  return {
    title: text("title"),
    description: text("description"),
    kind: text("x-kind") || null,
    whole: Array.isArray(node["type"]) && node["type"].includes("integer"),
    day: text("format") === "date",
    low: number("minimum"),
    high: number("maximum"),
    longest: number("maxLength"),
    fallback: typeof node["default"] === "string" || typeof node["default"] === "number" ? node["default"] : null,
    options: Array.isArray(options) ? (options as { value: string; reads: string }[]) : null,
  };
}
