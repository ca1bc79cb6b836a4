// What may be given to Python: so large and so deep, and no more.
const LARGEST = 5 * 1024 * 1024;
const DEEPEST = 40;

/** Why a question may not be asked, null where it may. */
export function tooMuch(question: string): string | null {
  if (question.length > LARGEST) return `it has ${question.length} characters, more than ${LARGEST}`;
  let depth = 0;
  let quoted = false;
  for (let i = 0; i < question.length; i += 1) {
    const c = question[i];
    if (quoted) {
      if (c === "\\") i += 1;
      else if (c === '"') quoted = false;
    } else if (c === '"') quoted = true;
    else if (c === "{" || c === "[") {
      depth += 1;
      if (depth > DEEPEST) return `it is nested more than ${DEEPEST} deep`;
    } else if (c === "}" || c === "]") depth -= 1;
  }
  return null;
}
