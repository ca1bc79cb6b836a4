// What counts in this job and nobody typed: how much each moves, to be confirmed or changed.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Assumed, Problem } from "../api/client";
import { assumedOf } from "../engine/ask";
import { Stale } from "../engine/engine";
import { AssumedContext, useAssumed, useIsAssumedKnown, useJobPart, useJobStore } from "../job/context";
import type { Document, Json } from "../job/document";
import { Button } from "../ui/controls";
import { CaptionedTable } from "../ui/CaptionedTable";
import { Mark } from "../ui/Mark";
import { useQuantities } from "../app/context";

/** Long enough that nobody who types waits for it. */
const REST_MS = 1500;

/** Keeps the list of what is assumed in a document for all that is drawn below; asked for at rest, the first time at once if `eager`. */
export function WithAssumedOf({
  document,
  eager = false,
  children,
}: {
  document: Document | null;
  eager?: boolean;
  children: React.ReactNode;
}) {
  const [found, setFound] = useState<Assumed[] | null>(null);
  const first = useRef(eager);
  useEffect(() => {
    if (!document) return;
    let over = false;
    const ask = () =>
      void assumedOf(document).then(
        (list) => {
          if (!over) setFound(list);
        },
        (problem: unknown) => {
          if (!(problem instanceof Problem || problem instanceof Stale)) throw problem;
          setFound((last) => last ?? []);
        },
      );
    const timer = setTimeout(ask, first.current ? 0 : REST_MS);
    first.current = false;
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, [document]);
  return <AssumedContext value={found}>{children}</AssumedContext>;
}

/** The same for the job that is open. */
export function WithAssumed({ children }: { children: React.ReactNode }) {
  const document = useJobPart((s) => (s.plan === null ? null : s.document));
  return (
    <WithAssumedOf eager document={document}>
      {children}
    </WithAssumedOf>
  );
}

const ROW = "no-print border-b border-rule bg-sheet px-5 py-1 text-small";

/** "Assumed: 7", which opens to the list. */
export function AssumedLine({ base }: { base: string }) {
  const found = useAssumed();
  const [params] = useSearchParams();
  const [open, setOpen] = useState(params.has("assumed"));
  const known = useIsAssumedKnown();
  // Its place is kept while it is not known and while nothing is assumed: what stands below must not move away from under a hand.
  if (!known)
    return (
      <div aria-hidden="true" className={ROW}>
        <span className="inline-block min-h-7" />
      </div>
    );
  if (found.length === 0)
    return (
      <p className={`${ROW} text-muted`}>
        <span className="inline-flex min-h-7 items-center">{t`Every value was entered or confirmed.`}</span>
      </p>
    );
  return (
    <section aria-label={t`Assumed`} className={ROW}>
      <button
        type="button"
        aria-expanded={open}
        data-testid="assumed"
        data-count={found.length}
        onClick={() => setOpen(!open)}
        className="min-h-7 underline decoration-rule decoration-dashed underline-offset-3"
      >
        <Trans>
          <b>Assumed: {found.length}</b> {found.length === 1 ? t`value` : t`values`} not entered yet
        </Trans>
      </button>
      {open ? <Listed found={found} base={base} /> : null}
    </section>
  );
}

/** Before a sign-off: what of it rests on values that nobody has looked at. */
export function AssumedBefore({ base }: { base: string }) {
  const found = useAssumed();
  if (found.length === 0) return null;
  return (
    <p className="flex gap-2 py-2">
      <Mark level="caution" size={16} silent />
      <span>
        <Trans>
          {found.length} {found.length === 1 ? t`value is` : t`values are`} assumed:{" "}
          {found
            .slice(0, 3)
            .map((a) => a.label)
            .join(", ")}
          {found.length > 3 ? t` and others` : ""}.{" "}
          <Link className="underline" to={`${base}/need?assumed`}>
            Confirm or change them first
          </Link>
        </Trans>
      </span>
    </p>
  );
}

function Listed({ found, base }: { found: Assumed[]; base: string }) {
  const store = useJobStore();
  const confirmed = useJobPart((s) => s.document["confirmed"]);
  const confirm = (paths: string[]) => store.edit("confirmed", [...(Array.isArray(confirmed) ? confirmed : []), ...paths] as Json);
  return (
    <div className="py-2">
      <CaptionedTable
        caption={t`The value with the most effect comes first. Confirm what you know, and change the rest.`}
        small
        heads={[
          { word: t`What` },
          { word: t`Value`, right: true },
          { word: t`Effect over its usual range`, className: "px-2" },
          { word: t`Source`, className: "px-2" },
          { word: "", ears: true },
        ]}
      >
        {found.map((a) => (
          <Row key={a.path} a={a} base={base} confirm={() => confirm([a.path])} />
        ))}
      </CaptionedTable>
      {store.role === "guest" ? null : (
        <Button data-testid="confirm-all" onClick={() => confirm(found.map((a) => a.path))}>
          <Trans>Confirm all {found.length}</Trans>
        </Button>
      )}
    </div>
  );
}

const STAGE_OF: Record<string, string> = {
  site: "need",
  need: "need",
  equipment: "equipment",
  supplies: "supply",
  siting: "siting",
  handover: "handover",
};

function Row({ a, base, confirm }: { a: Assumed; base: string; confirm: () => void }) {
  const q = useQuantities();
  const store = useJobStore();
  const navigate = useNavigate();
  const change = () => {
    const stage = STAGE_OF[a.at.split(/[.[]/)[0] ?? ""] ?? "need";
    void Promise.resolve(navigate(`${base}/${stage}`)).then(() =>
      setTimeout(() => document.querySelector<HTMLElement>(`[data-path="${a.at}"]`)?.focus(), 120),
    );
  };
  const value = a.reads || (typeof a.value === "number" ? q.show(a.value, a.kind) : a.value);
  return (
    <tr data-assumed={a.at} className="border-t border-hair align-top">
      <th scope="row" className="py-1 pr-2 text-left font-medium">
        {a.label}
      </th>
      <td className="whitespace-nowrap py-1 pl-3 text-right">{value}</td>
      <td className="px-2 py-1">
        {a.moves
          ? t`${a.moves.name}: ${q.show(a.moves.low, a.moves.kind)} to ${q.show(a.moves.high, a.moves.kind)}`
          : a.tried
            ? t`no main figure`
            : t`not tried`}
      </td>
      <td className="px-2 py-1 text-ink-2">{a.source}</td>
      <td className="whitespace-nowrap py-1 text-right">
        {store.role === "guest" ? null : (
          <span className="inline-flex gap-3">
            <Button data-testid="confirm" look="quiet" onClick={confirm}>{t`Confirm`}</Button>
            <Button data-testid="change" look="quiet" onClick={change}>{t`Change`}</Button>
          </span>
        )}
      </td>
    </tr>
  );
}
