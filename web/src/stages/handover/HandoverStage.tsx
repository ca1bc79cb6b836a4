import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, useSyncExternalStore } from "react";
import { Link, useParams } from "react-router";
import type { MachineState, Run } from "../../api/client";
import { AuditList } from "../../jobs/AuditList";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { useRecords, useStage } from "../../job/context";
import { saveJob } from "../../outbox/save";
import { StagePart } from "../../ui/answers";
import { Button, StageLink } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { Mark } from "../../ui/Mark";
import { Reports, zone } from "./Reports";
import { Shares } from "./Shares";
import { SignOff } from "./SignOff";

/** Where a machine's commissioning stands, in words. */
function wordsOf(machine: MachineState, run: Run | undefined): string {
  const signed = run?.signed
    ? t`signed off by ${run.signed.by}, ${moment(run.signed.at)}${run.signedHere ? t` (on this device only)` : ""}`
    : "";
  if (machine.stale.length > 0) return t`${signed || t`started again`}. The job was changed since, and these must be tested again`;
  if (machine.state === "begun") return t`not signed off, ${machine.gates.length} items block it`;
  if (machine.state === "not_begun") return t`not commissioned`;
  return signed || t`no guided commissioning here, keep the record on paper`;
}

/** Whom it goes to, whether it is signed off, and the files to hand over. */
export function HandoverStage() {
  const { jobId = "" } = useParams();
  const { device, sender } = useSurroundings();
  const { silent } = useSyncExternalStore(sender.subscribe, sender.get);
  const { runs, machines } = useRecords();
  const [shown, setShown] = useState(false);
  const q = useQuantities();
  const runOf = (m: MachineState) => runs.find((r) => r.id === m.run);
  const saveHere = () => void saveJob(device, jobId);
  const there = `?zone=${encodeURIComponent(zone())}`;
  const files = [
    {
      name: "whole.zip",
      words: t`Whole job (one open file)`,
      says: t`Document, plan, commissioning, log and pictures with their checksums. You can import it here or on another server.`,
    },
    {
      name: `log.xlsx${there}`,
      words: t`Log and record (XLSX)`,
      says: t`Visits, readings, commissioning, joints and cylinders, one sheet each`,
    },
    { name: "log.csv", words: t`Log (CSV)`, says: t`Every entry, in SI and as typed` },
    { name: "log.json", words: t`Log (JSON)`, says: t`Every entry as it was sent` },
    {
      name: "schedule.ics",
      words: t`Schedule (iCalendar)`,
      says: t`What is due now, with alarms. Running has a calendar that updates itself.`,
    },
    {
      name: `tables/joints.xlsx${there}`,
      words: t`Joint register (XLSX)`,
      also: `tables/joints.csv${there}`,
      says: t`Every joint, how it is made and its last test`,
    },
    {
      name: `tables/material.xlsx${there}`,
      words: t`Bill of material (XLSX)`,
      also: `tables/material.csv${there}`,
      says: t`All installed material, counted and measured`,
    },
    {
      name: "drawings/path.svg",
      words: t`Fuel path (SVG)`,
      also: "drawings/path.dxf",
      says: t`Each path with its pressure steps`,
    },
    {
      name: "drawings/site.svg",
      words: t`Site plan (SVG)`,
      also: "drawings/site.dxf",
      says: t`Where everything is, and what to keep clear`,
    },
    {
      name: "network.json",
      words: t`Gas network (JSON for pandapipes)`,
      says: t`For an engineer who checks it with other software`,
    },
  ];
  return (
    <StagePart
      given={["prepared_for", "prepared_by", "call_out"].map((name) => (
        <JobField key={name} path={`handover.${name}`} />
      ))}
      stage={useStage("handover")}
      above={
        <>
          <ul className="mb-4 border-t-[1.5px] border-frame">
            {machines.length === 0 ? (
              <li className="py-2 text-muted">
                {t`No machine is commissioned yet.`}
                <StageLink to="commissioning">{t`Go to Commissioning`}</StageLink>
              </li>
            ) : null}
            {machines.map((m) => (
              <li key={m.machine} className="border-b border-rule py-2">
                <span className="flex items-center gap-2">
                  <Mark
                    level={m.stale.length > 0 ? "stop" : m.state === "signed" ? "good" : m.state === "begun" ? "stop" : "caution"}
                  />
                  {m.name}: {wordsOf(m, runOf(m))}
                </span>
                {m.stale.length > 0 ? (
                  <ul className="pl-7 text-small">
                    {m.stale.map((s) => (
                      <li key={s.subject}>
                        {s.name}: {q.say(s.say, s.values)}
                      </li>
                    ))}
                  </ul>
                ) : null}
              </li>
            ))}
          </ul>
          {silent ? (
            <p className="mb-2 text-small">
              <Trans>
                No signal. The report and the log files come from the server.
                <Button data-testid="save-whole" look="quiet" onClick={saveHere}>
                  Save what this device has of the job
                </Button>
              </Trans>
            </p>
          ) : null}
          <SignOff jobId={jobId} />
          <Reports jobId={jobId} />
          <h2 className="border-b-[1.5px] border-frame pb-1 text-lg font-bold">{t`Files`}</h2>
          <ul className="mb-5">
            {files.map((f) => (
              <li key={f.name} className="border-b border-hair py-2">
                <a
                  data-testid={`file-${f.name.split("?")[0]}`}
                  href={`/api/jobs/${jobId}/${f.name}`}
                  download
                  className="font-semibold underline decoration-ember decoration-2 underline-offset-3"
                >
                  {f.words}
                </a>
                {"also" in f && f.also ? (
                  <a href={`/api/jobs/${jobId}/${f.also}`} download className="pl-3 text-small underline">
                    {f.also.includes(".csv") ? t`CSV` : t`DXF`}
                    <span className="sr-only">
                      <Trans> of the {f.words}</Trans>
                    </span>
                  </a>
                ) : null}
                <span className="block text-small text-muted">{f.says}</span>
              </li>
            ))}
          </ul>
          <Shares jobId={jobId} />
          <section data-testid="audit" aria-label={t`Who did what`} className="mb-5">
            <h2 className="border-b-[1.5px] border-frame pb-1 text-lg font-bold">{t`Who did what`}</h2>
            {shown ? (
              <AuditList of={{ job: jobId }} />
            ) : (
              <Button data-testid="show-audit" look="quiet" onClick={() => setShown(true)}>{t`Show the report`}</Button>
            )}
          </section>
          <p className="text-small text-muted">
            <Trans>
              To see whether a report and its data are unchanged,
              <Link to="/verify" className="underline">
                check files
              </Link>
              .
            </Trans>
          </p>
        </>
      }
    />
  );
}
