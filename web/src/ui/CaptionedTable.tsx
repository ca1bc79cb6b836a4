// A table of answers: what it shows over it, its columns, its rows.
import type { ReactNode } from "react";

export interface Head {
  word: string;
  /** Numbers stand at the right. */
  right?: boolean;
  /** Said only to a screen reader. */
  ears?: boolean;
  className?: string;
}

interface CaptionedTableProps {
  /** What the table shows, in a line. */
  caption: ReactNode;
  /** Whether the caption is only for ears, because a heading says it already. */
  quietCaption?: boolean;
  /** The columns; none where the rows explain themselves. */
  heads?: Head[];
  /** Whether the heads are only for ears. */
  quietHeads?: boolean;
  small?: boolean;
  /** The rows, as `tr`. */
  children: ReactNode;
}

/** The one table of answers. */
export function CaptionedTable({
  caption,
  quietCaption = false,
  heads = [],
  quietHeads = false,
  small = false,
  children,
}: CaptionedTableProps) {
  return (
    <div className="relative max-sm:overflow-x-auto">
      <table className={`mb-4 w-full border-t-[1.5px] border-frame text-left ${small ? "text-small" : ""}`}>
        <caption className={quietCaption ? "sr-only" : "pb-1 text-left text-small text-muted"}>{caption}</caption>
        {heads.length > 0 ? (
          <thead className={quietHeads ? "sr-only" : `text-muted ${small ? "text-tiny" : "text-small"}`}>
            <tr>
              {heads.map((h, n) => (
                <th
                  key={`${n} ${h.word}`}
                  scope="col"
                  className={`align-bottom font-normal ${h.right ? "pl-3 text-right" : "pr-2"} ${h.className ?? ""}`}
                >
                  {h.ears ? <span className="sr-only">{h.word}</span> : h.word}
                </th>
              ))}
            </tr>
          </thead>
        ) : null}
        <tbody>{children}</tbody>
      </table>
    </div>
  );
}
