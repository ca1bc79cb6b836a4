// Who must be asked before work begins, what came of it, and the paper that says so.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { v7 as uuidv7 } from "uuid";
import { Problem, answer, api, asForm } from "../../api/client";
import { useJobPart, useJobStore } from "../../job/context";
import { at } from "../../job/document";
import { Rows } from "./Rows";

/** Permits, authority, utility, licensed persons. */
export function Permits() {
  return (
    <>
      <p className="pb-1 text-small text-muted">{t`Permit, authority, inspector, utility and licensed people come before the first spanner. What is not needed here says so.`}</p>
      <Rows
        list="siting.permits"
        stem="permit"
        one={t`permit`}
        many={t`permits`}
        addWords={t`Add permit`}
        fields={["name", "what", "stands", "on"]}
        more={["until", "note"]}
        fresh={{ what: "permit", stands: "open" }}
        none={t`None entered yet.`}
        under={(path, of) => <Paper path={`${path}.paper`} of={of} />}
      />
    </>
  );
}

/** A PDF or photo kept with the job, on the server: it goes there at once, or says why it could not. */
function Paper({ path, of }: { path: string; of: string }) {
  const store = useJobStore();
  const kept = useJobPart((s) => at(s.document, path));
  const [told, setTold] = useState("");
  const keep = (file: File | undefined) => {
    if (!file) return;
    const id = uuidv7();
    const form = new FormData();
    form.append("file", file);
    setTold(t`Sending it`);
    answer(
      api.POST("/api/jobs/{job_id}/papers/{paper_id}", { params: { path: { job_id: store.id, paper_id: id } }, ...asForm(form) }),
    ).then(
      () => {
        setTold("");
        store.edit(path, id);
      },
      (problem: unknown) =>
        setTold(
          problem instanceof Problem && problem.status >= 400
            ? problem.message
            : t`It was not sent. Keep the file, and choose it again when there is signal.`,
        ),
    );
  };
  return (
    <div className="flex flex-wrap items-baseline gap-x-3 pt-1 text-small">
      <label>
        <Trans>
          <span className="sr-only">{of}: </span>Paper (PDF or photo){" "}
          <input
            type="file"
            data-path={path}
            accept="application/pdf,image/jpeg,image/png"
            onChange={(e) => keep(e.target.files?.[0])}
            className="max-w-full text-tiny"
          />
        </Trans>
      </label>
      {typeof kept === "string" && kept !== "" ? (
        <a
          data-testid="open-paper"
          href={`/api/jobs/${store.id}/papers/${kept}`}
          className="font-medium text-ember-ink underline"
        >{t`Open paper`}</a>
      ) : null}
      {told ? (
        <span role="status" className="text-ink-2">
          {told}
        </span>
      ) : null}
    </div>
  );
}
