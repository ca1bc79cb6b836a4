// The user guide: its pages at the left, the open one beside them, and a search that needs no signal.
import { t } from "@lingui/core/macro";
import { Input } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, NavLink, useParams } from "react-router";
import { TopBar } from "../app/TopBar";
import { Message, Skeleton } from "../ui/controls";
import { type Hit, readGuide, search } from "./guide";
import Words from "./Words";

export function GuidePage() {
  const { page = "index" } = useParams();
  const guide = useQuery({ queryKey: ["guide"], queryFn: readGuide, staleTime: Infinity });
  const [wanted, setWanted] = useState("");
  const open = guide.data?.find((p) => p.key === page);
  useEffect(() => {
    document.title = t`${open?.title ?? t`User guide`} · Ofen`;
    globalThis.scrollTo(0, 0);
  }, [open]);
  const hits = guide.data ? search(guide.data, wanted) : [];
  return (
    <>
      <TopBar>
        <Link to="/" className="underline">{t`Jobs`}</Link>
      </TopBar>
      <main className="grid flex-1 gap-x-6 px-5 py-4 lg:grid-cols-[15rem_1fr]">
        <nav aria-label={t`User guide`} className="pb-4">
          <label className="block pb-1 text-small text-muted" htmlFor="guide-search">{t`Search the guide`}</label>
          <Input
            id="guide-search"
            type="search"
            value={wanted}
            onChange={(e) => setWanted(e.target.value)}
            className="min-h-10 w-full rounded-sm border-[1.5px] border-edge bg-card px-2"
          />
          {wanted.trim() ? (
            <Hits hits={hits} onOpen={() => setWanted("")} />
          ) : (
            <ul className="pt-2">
              {guide.data?.map((p) => (
                <li key={p.key}>
                  <NavLink
                    to={`/help/${p.key}`}
                    className={() =>
                      `block border-l-4 py-1 pl-2 ${p.key === page ? "border-ember font-bold" : "border-transparent"}`
                    }
                  >
                    {p.title}
                  </NavLink>
                </li>
              ))}
            </ul>
          )}
        </nav>
        <div className="min-w-0">{guide.data === undefined ? <Skeleton /> : open ? <Words text={open.text} /> : <NoPage />}</div>
      </main>
    </>
  );
}

const NoPage = () => (
  <Message title={t`There is no page of this name`}>
    <Link to="/help" className="underline">{t`Open the user guide`}</Link>
  </Message>
);

function Hits({ hits, onOpen }: { hits: Hit[]; onOpen: () => void }) {
  return (
    <ul data-testid="guide-found" className="pt-2">
      {hits.length === 0 ? <li className="text-muted">{t`No page matches.`}</li> : null}
      {hits.map(({ page, line }) => (
        <li key={page.key} className="border-b border-hair py-1.5">
          <Link to={`/help/${page.key}`} onClick={onOpen} className="block">
            <b>{page.title}</b>
            <span className="block text-small text-muted">{line}</span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
