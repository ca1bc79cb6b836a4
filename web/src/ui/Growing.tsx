import { Trans } from "@lingui/react/macro";
import { type ReactNode, useEffect, useRef, useState } from "react";

const AT_ONCE = 60;

interface GrowingProps<T> {
  rows: T[];
  /** Draws one row, with its key. */
  row: (of: T) => ReactNode;
  className?: string;
}

/** A long list of which as much stands as was scrolled to: a thousand rows cost what sixty do. */
export function Growing<T>({ rows, row, className }: GrowingProps<T>) {
  const [count, setCount] = useState(AT_ONCE);
  const end = useRef<HTMLLIElement>(null);
  const more = rows.length > count;
  useEffect(() => {
    if (!end.current) return;
    const watch = new IntersectionObserver((seen) => seen.some((e) => e.isIntersecting) && setCount((n) => n + AT_ONCE), {
      rootMargin: "600px",
    });
    watch.observe(end.current);
    return () => watch.disconnect();
  }, [more, count]);
  return (
    <ul className={className}>
      {rows.slice(0, count).map(row)}
      {more ? (
        <li ref={end} className="py-3 text-small text-muted">
          <Trans>{rows.length - count} more below</Trans>
        </li>
      ) : null}
    </ul>
  );
}
