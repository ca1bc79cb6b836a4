import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { Skeleton } from "../ui/controls";
import { Growing } from "../ui/Growing";
import { moment } from "../app/context";

type Of = { job: string } | { person: string };

interface AuditListProps {
  /** Of which job, or of whom. */
  of: Of;
}

/** Who did what when, the newest first; all of it as a file. */
export function AuditList({ of }: AuditListProps) {
  const found = useQuery({
    queryKey: ["audit", of],
    queryFn: () =>
      "job" in of
        ? answer(api.GET("/api/jobs/{job_id}/audit", { params: { path: { job_id: of.job } } }))
        : answer(api.GET("/api/people/{name}/audit", { params: { path: { name: of.person } } })),
  });
  const file = "job" in of ? `/api/jobs/${of.job}/audit.csv` : `/api/people/${encodeURIComponent(of.person)}/audit.csv`;
  if (found.isError)
    return <p className="text-small text-muted">{t`No signal, or you have no access. The history comes from the server.`}</p>;
  if (!found.data) return <Skeleton lines={3} />;
  if (found.data.length === 0) return <p className="text-small text-muted">{t`Nothing has been done yet.`}</p>;
  return (
    <>
      <Growing
        className="border-t border-rule"
        rows={found.data}
        row={(r) => (
          <li
            key={`${r.at} ${r.act} ${r.words}`}
            className="grid grid-cols-[8.5rem_1fr] gap-x-3 border-b border-hair py-1 text-small"
          >
            <span className="text-muted">{moment(r.at)}</span>
            <span>
              {"job" in of ? (
                <b>{r.by}</b>
              ) : r.job && r.name ? (
                <Link to={`/jobs/${r.job}/need`} className="font-semibold underline">
                  {r.name}
                </Link>
              ) : null}{" "}
              {r.words}
            </span>
          </li>
        )}
      />
      <a
        href={file}
        download
        className="inline-flex min-h-9 items-center text-small font-semibold underline decoration-ember decoration-2 underline-offset-3"
      >{t`Download all as CSV`}</a>
    </>
  );
}
