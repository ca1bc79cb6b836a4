// A page of the guide as it is read: its headings, lists, links and pictures in the look of the application.
import { t } from "@lingui/core/macro";
import Markdown from "markdown-to-jsx/react";
import { Link } from "react-router";
import { worded } from "../words/terms";
import { pictureAt } from "./guide";

function Picture({ src = "", alt = "" }: { src?: string | undefined; alt?: string | undefined }) {
  return (
    <img
      src={pictureAt(src)}
      alt={alt}
      className="my-3 block max-h-112 w-full max-w-3xl border-[1.5px] border-frame object-cover object-top"
    />
  );
}

/** A link of a page leads to another page of the guide. */
function PageLink({ href = "", children }: { href?: string | undefined; children?: React.ReactNode }) {
  return (
    <Link to={`/help/${href.replace(/\.md$/, "")}`} className="font-medium text-ember-ink underline">
      {children}
    </Link>
  );
}

const LOOKS = {
  a: PageLink,
  img: Picture,
  h1: { props: { className: "pb-1 text-2xl font-bold" } },
  h2: { props: { className: "pt-4 pb-1 text-lg font-bold" } },
  p: { props: { className: "max-w-[42rem] py-1" } },
  ul: { props: { className: "max-w-[42rem] list-disc space-y-1 py-1 pl-5" } },
  ol: { props: { className: "max-w-[42rem] list-decimal space-y-1 py-1 pl-5" } },
  code: { props: { className: "bg-rail px-1" } },
};

/** Markdown of the guide, in this person's English. */
export default function Words({ text }: { text: string }) {
  return (
    <article aria-label={t`Help`} className="text-body">
      <Markdown options={{ overrides: LOOKS, disableParsingRawHTML: true, forceBlock: true }}>{worded(text)}</Markdown>
    </article>
  );
}
