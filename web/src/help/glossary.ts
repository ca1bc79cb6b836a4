// What the words on the screens mean: the first table of docs/glossary.md, there as soon as a label is.
import page from "../../../docs/glossary.md?raw";
import { glossaryOf } from "./guide";

export const GLOSSARY = glossaryOf(page);
