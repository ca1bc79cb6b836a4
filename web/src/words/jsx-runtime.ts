// How every element is made: as React makes it, with the terms in what a person reads said in their own English. So a term
// is said wherever it is drawn, and its name never reaches a screen.
import * as runtime from "react/jsx-runtime";
import { isOtherwise, worded } from "./terms";

export { Fragment } from "react/jsx-runtime";
export type { JSX } from "react/jsx-runtime";

type Make = typeof runtime.jsx;
type Props = Record<string, unknown>;

/** What of an element a person reads or hears, beside what stands in it. */
const READ = ["aria-label", "title", "placeholder", "alt", "label", "aria-description", "aria-valuetext"];

const said = (value: unknown) => (typeof value === "string" ? worded(value) : value);

const isNamed = (value: unknown) => typeof value === "string" && isOtherwise(value);

/** The same props where nothing in them names a term. */
export function inEnglish(type: unknown, props: Props): Props {
  const { children } = props;
  let read = props;
  if (Array.isArray(children)) {
    if (children.some(isNamed)) read = { ...read, children: children.map(said) };
  } else if (isNamed(children)) read = { ...read, children: said(children) };
  if (typeof type === "string") for (const name of READ) if (isNamed(read[name])) read = { ...read, [name]: said(read[name]) };
  return read;
}

export const jsx: Make = (type, props, key) => runtime.jsx(type, inEnglish(type, props as Props), key);
export const jsxs: Make = (type, props, key) => runtime.jsxs(type, inEnglish(type, props as Props), key);
