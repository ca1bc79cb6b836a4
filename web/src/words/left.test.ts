// No sentence is left in the code without the mark by which the catalogues are made.
import { readFileSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";
import { expect, test } from "vitest";

const READ = new Set(["title", "aria-label", "label", "caption", "placeholder", "alt", "none", "word", "help", "what"]);
// Names and marks that no language says otherwise.
const ALIKE = new Set(["CO", "CO2", "A4", "A5", "CSV", "DXF", "SVG", "N", "V", "Enter"]);
const LETTERS = /\p{L}{2,}/u;
const SENTENCE = /^\p{Lu}\p{Ll}*(?: [\p{L}\p{N},’']+){2}/u;
const EITHER = new Set(["||", "??", "&&", "+"]);

function filesIn(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return name === "generated" ? [] : filesIn(path);
    return /(?<!\.test|fakes)\.tsx?$/.test(name) ? [path] : [];
  });
}

/** Whether what a value becomes is drawn: as a child of an element, or as one of its words. */
function isDrawn(node: ts.Node): boolean {
  const { parent } = node;
  if (ts.isConditionalExpression(parent)) return node !== parent.condition && isDrawn(parent);
  if (ts.isBinaryExpression(parent)) return EITHER.has(parent.operatorToken.getText()) && isDrawn(parent);
  if (ts.isParenthesizedExpression(parent) || ts.isTemplateSpan(parent) || ts.isTemplateExpression(parent)) return isDrawn(parent);
  if (!ts.isJsxExpression(parent)) return false;
  return ts.isJsxAttribute(parent.parent) ? READ.has(parent.parent.name.getText()) : true;
}

/** The words of a string in the code, without the values it fills in; null where it is none, or is marked. */
function wordsOf(node: ts.Node): string | null {
  if (ts.isSourceFile(node) || ts.isTaggedTemplateExpression(node.parent)) return null;
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return node.text;
  return ts.isTemplateExpression(node)
    ? [node.head, ...node.templateSpans.map((s) => s.literal)].map((p) => p.text).join(" ")
    : null;
}

/** The words of a file that a person reads and no catalogue has. */
export function leftIn(path: string, text: string): string[] {
  const file = ts.createSourceFile(
    path,
    text,
    ts.ScriptTarget.Latest,
    true,
    path.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const left: string[] = [];
  const visit = (node: ts.Node, isMarked: boolean) => {
    if (ts.isCallExpression(node) && node.expression.getText() === "plural") return;
    const opens = ts.isJsxElement(node) && node.openingElement.tagName.getText() === "Trans";
    if (ts.isJsxText(node) && !isMarked && LETTERS.test(node.text)) left.push(node.text.trim());
    if (ts.isJsxAttribute(node) && node.initializer && ts.isStringLiteral(node.initializer) && READ.has(node.name.getText()))
      left.push(node.initializer.text);
    const words = wordsOf(node);
    if (words !== null && (isDrawn(node) || SENTENCE.test(words))) left.push(words.trim());
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

test("words in an expression that is drawn are found, and a whole sentence wherever it is", () => {
  const code = 'const A = () => <p data-of="one two" title={`of ${n}`}>{n > 1 ? "many" : t`one`}</p>;';
  expect(leftIn("a.tsx", code)).toEqual(["of", "many"]);
  expect(leftIn("a.ts", 'fail("This picture is too large"); find("of no matter");')).toEqual(["This picture is too large"]);
});
