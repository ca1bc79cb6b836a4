// The user guide and the glossary: the very pages of docs/guide and docs/glossary.md, built into the application.
import { worded } from "../words/terms";

const pages = import.meta.glob<string>("../../../docs/guide/*.md", { query: "?raw", import: "default" });
const pictures = import.meta.glob<string>(
  "../../../docs/screenshots/{need,equipment,supply,siting,commissioning,running,handover,jobs,hands,crew,papers}.png",
  { query: "?url", import: "default", eager: true },
);

export interface Page {
  /** What the address calls it. */
  key: string;
  title: string;
  /** Markdown. */
  text: string;
}

const nameOf = (path: string) => path.replace(/^.*\//, "").replace(/\.md$/, "");

/** The order in which a reader finds them. */
const ROLES = ["index", "at-a-desk", "at-the-unit", "lead", "owner"];
const STAGES = ["need", "equipment", "supply", "siting", "commissioning", "running", "handover"];
const ORDER = [...ROLES, ...STAGES];

async function readPage(key: string, load: () => Promise<string>): Promise<Page> {
  const text = await load();
  return { key, title: /^# (.*)$/m.exec(text)?.[1] ?? key, text };
}

/** Every page of the guide, the roles before the stages. */
export async function readGuide(): Promise<Page[]> {
  const all = await Promise.all(Object.entries(pages).map(([path, load]) => readPage(nameOf(path), load)));
  const place = (page: Page) => (ORDER.includes(page.key) ? ORDER.indexOf(page.key) : ORDER.length);
  return all.sort((a, b) => place(a) - place(b));
}

/** One page of the guide, null where there is none of that name. */
export async function readOne(key: string): Promise<Page | null> {
  const entry = Object.entries(pages).find(([path]) => nameOf(path) === key);
  return entry ? readPage(key, entry[1]) : null;
}

/** The address of a picture that a page names. */
export function pictureAt(source: string): string {
  return pictures[`../../../docs/screenshots/${source.replace(/^.*\//, "")}`] ?? "";
}

export interface Hit {
  page: Page;
  /** The line in which the words stand. */
  line: string;
}

const readable = (markdown: string) =>
  markdown
    .replace(/!?\[([^\]]*)\]\([^)]*\)/g, "$1")
    .replace(/[*`#]/g, "")
    .trim();

/** The pages in which every word stands, with the first line that has one of them. */
export function search(guide: Page[], wanted: string): Hit[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  return guide.flatMap((page) => {
    const text = page.text.toLowerCase();
    if (!words.every((w) => text.includes(w))) return [];
    const lines = page.text.split("\n").map(readable);
    const line = lines.find((l) => words.some((w) => l.toLowerCase().includes(w))) ?? "";
    return [{ page, line: line || page.title }];
  });
}

/** What each word of the screens means, the longest words first, so that a whole one is found before its part. */
export type Glossary = { word: string; means: string; pattern: RegExp }[];

const patternOf = (word: string) => new RegExp(`(?<![\\w-])${word.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")}(?![\\w-])`, "i");

/** The lines of the glossary's first table. */
export function glossaryOf(markdown: string): Glossary {
  const table = markdown.split("## Words in the code")[0] ?? "";
  return [...table.matchAll(/^\| ([^|]+?) \| ([^|]+?) \|$/gm)]
    .map((row) => ({ word: row[1] ?? "", means: row[2] ?? "", pattern: patternOf(row[1] ?? "") }))
    .filter(({ word }) => word !== "word" && !word.startsWith("---"))
    .sort((a, b) => b.word.length - a.word.length);
}

export interface Marked {
  before: string;
  word: string;
  after: string;
  means: string;
}

/** The first trade word in a text, with what stands around it; null where it has none. */
export function tradeWordIn(text: string, known: Glossary): Marked | null {
  const said = worded(text);
  for (const { means, pattern } of known) {
    const at = pattern.exec(said);
    if (at) return { before: said.slice(0, at.index), word: at[0], after: said.slice(at.index + at[0].length), means };
  }
  return null;
}
