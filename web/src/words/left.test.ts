// No sentence is left in the code without the mark by which the catalogues are made.
import { readFileSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";
import { expect, test } from "vitest";

const READ = new Set(["title", "aria-label", "label", "caption", "placeholder", "alt", "none", "word", "help", "what"]);
// Names and marks that no language says otherwise.
const ALIKE = new Set(["CO", "CO2", "A4", "A5", "CSV", "DXF", "SVG", "N", "V", "Enter"]);
const LETTERS = /\p{L}{2,}/u;

function filesIn(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return filesIn(path);
    return /(?<!\.test)\.tsx$/.test(name) ? [path] : [];
  });
}

/** The words of a file that a person reads and no catalogue has. */
export function leftIn(path: string, text: string): string[] {
  const file = ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
  const left: string[] = [];
  const visit = (node: ts.Node, isMarked: boolean) => {
    const opens = ts.isJsxElement(node) && node.openingElement.tagName.getText() === "Trans";
    if (ts.isJsxText(node) && !isMarked && LETTERS.test(node.text)) left.push(node.text.trim());
    if (ts.isJsxAttribute(node) && node.initializer && ts.isStringLiteral(node.initializer) && READ.has(node.name.getText()))
      left.push(node.initializer.text);
    ts.forEachChild(node, (child) => visit(child, opens || (isMarked && !ts.isJsxExpression(node))));
  };
  visit(file, false);
  return left.filter((words) => LETTERS.test(words) && !ALIKE.has(words));
}

test("every sentence of the screens is in a catalogue", () => {
  const left = filesIn("src").flatMap((path) => leftIn(path, readFileSync(path, "utf8")).map((words) => `${path}: ${words}`));
  expect(left).toEqual([]);
});

test("a sentence that is left in code is found", () => {
  const code = 'const A = () => <p title="Open it">Hello <b>you</b>{t`there`}<Trans>Good <i>day</i></Trans></p>;';
  expect(leftIn("a.tsx", code)).toEqual(["Open it", "Hello", "you"]);
});
