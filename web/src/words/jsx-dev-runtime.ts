// The same while developing and in tests.
import * as runtime from "react/jsx-dev-runtime";
import { inEnglish } from "./jsx-runtime";

export { Fragment } from "react/jsx-runtime";
export type { JSX } from "react/jsx-runtime";

type Make = (type: unknown, props: Record<string, unknown>, ...rest: unknown[]) => unknown;

export const jsxDEV: Make = (type, props, ...rest) => (runtime.jsxDEV as Make)(type, inEnglish(type, props), ...rest);
