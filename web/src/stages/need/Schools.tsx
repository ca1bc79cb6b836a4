import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import { memo } from "react";
import { useQuantities } from "../../app/context";
import { useJob, useJobStore } from "../../job/context";
import { listAt, textAt } from "../../job/document";
import { Button } from "../../ui/controls";
import { CaptionedTable } from "../../ui/CaptionedTable";

export type School = Row<"schools">;

/** What each school of sizing makes of each space, why they differ there, and which one leads. */
export const Schools = memo(function Schools({ rows }: { rows: School[] }) {
  const q = useQuantities();
  const store = useJobStore();
  const { document } = useJob();
  if (rows.length === 0) return null;
  const most = Math.max(...rows.map((r) => r.heat_w ?? 0), 1);
  const several = new Set(rows.map((r) => r.space)).size > 1;
  const lead = (row: School) =>
    store.edit(`need.spaces[${listAt(document, "need.spaces").findIndex((s) => textAt(s, "id") === row.space)}].leads`, row.school);
  return (
    <CaptionedTable
      caption={t`Three sizing methods, and what each one gives here`}
      heads={[
        { word: t`Sizing method` },
        { word: t`Heat` },
        { word: t`Compared with the heat balance` },
        { word: t`Method in use` },
      ]}
      quietHeads
    >
      {rows.map((r) => (
        <tr key={`${r.space} ${r.school}`} className={`border-t border-hair align-top ${r.heat_w === null ? "text-muted" : ""}`}>
          <th scope="row" className="py-1.5 font-normal">
            <span className={r.leads ? "font-bold" : "font-medium"}>
              {several ? `${r.space_name}: ` : ""}
              {r.name}
            </span>
            <span className="block text-small text-muted">{r.why}</span>
          </th>
          <td className="whitespace-nowrap py-1.5 pl-3 text-right font-medium">
            {r.heat_w === null ? "—" : q.show(r.heat_w, "heat_flow")}
          </td>
          <td className="w-1/5 py-1.5 pl-3">
            <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="mt-1.5 h-2 w-full" aria-hidden="true">
              <rect width={(100 * (r.heat_w ?? 0)) / most} height="8" className={r.leads ? "fill-ember" : "fill-gas"} />
            </svg>
            <span className="block text-right text-tiny text-muted">{r.by === null ? "" : q.show(r.by, "fraction")}</span>
          </td>
          <td className="whitespace-nowrap py-1 pl-3 text-right">
            {r.leads ? (
              <span className="font-semibold">{t`in use`}</span>
            ) : r.heat_w === null ? null : (
              <Button edits data-testid="let-lead" look="quiet" onClick={() => lead(r)}>
                <Trans>
                  Use this method<span className="sr-only"> {r.name}</span>
                </Trans>
              </Button>
            )}
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
});
