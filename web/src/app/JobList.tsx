import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { type Job, type JobLine, Problem, answer, api } from "../api/client";
import { Button, Message, Skeleton } from "../ui/controls";
import { useSurroundings } from "./context";
import { NEW_JOB } from "./newJob";
import { Preferences } from "./Preferences";

const LARGEST_BYTES = 5 * 1024 * 1024;
const TOO_LARGE = new Problem({ status: 413, title: "This file is too large", detail: "At most 5 MB are taken." });

/** The team's jobs, those that need a person first. */
export function JobList() {
  const { person, signOut } = useSurroundings();
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: () => answer(api.GET("/api/jobs")), staleTime: 0 });

  const open = async (making: Promise<Job>) => {
    setProblem(null);
    try {
      await navigate(`/jobs/${(await making).id}/need`);
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
  };
  const make = (body: { document?: typeof NEW_JOB; example?: string }) => void open(answer(api.POST("/api/jobs", { body })));
  const bring = (chosen: File | undefined) => {
    if (!chosen) return;
    if (chosen.size > LARGEST_BYTES) {
      setProblem(TOO_LARGE);
      return;
    }
    const form = new FormData();
    form.append("file", chosen);
    void open(answer(api.POST("/api/jobs/import", { body: form as unknown as { file: string }, bodySerializer: (b) => b as unknown as FormData })));
  };
  return (
    <div className="min-h-dvh">
      <header className="flex flex-wrap items-center gap-x-5 gap-y-2 border-b-[1.5px] border-frame bg-rail px-5 py-2.5">
        <span className="text-xl font-extrabold tracking-tight [font-stretch:118%]">
          ofen<span className="text-ember">.</span>
        </span>
        <span className="text-ink-2">{person.team}</span>
        <span className="ml-auto flex flex-wrap items-center gap-4">
          <Preferences />
          <span className="text-ink-2">{person.name}</span>
          <Button look="quiet" onClick={signOut}>
            Sign out
          </Button>
        </span>
      </header>
      <main className="mx-auto max-w-5xl px-5 py-5">
        <div className="mb-4 flex flex-wrap items-center gap-3">
          <h1 className="mr-auto text-big font-bold">Jobs</h1>
          <Button onClick={() => file.current?.click()}>Bring in a job file</Button>
          <input ref={file} type="file" accept="application/json,.json" className="sr-only" tabIndex={-1} aria-label="Job file" onChange={(e) => bring(e.target.files?.[0])} />
          <Button look="act" onClick={() => make({ document: NEW_JOB })}>
            Make a job
          </Button>
        </div>
        {problem ? (
          <div className="mb-4">
            <Message failed title={problem.message}>
              {problem.detail}
              <ul className="mt-1 list-disc pl-5">
                {problem.faults.map((f) => (
                  <li key={f.path}>
                    <code>{f.path || "file"}</code> {f.message}
                  </li>
                ))}
              </ul>
            </Message>
          </div>
        ) : null}
        {jobs.isPending ? <Skeleton /> : null}
        {jobs.isError ? (
          <Message failed title={jobs.error.message}>
            Load the page again when there is signal.
          </Message>
        ) : null}
        {jobs.data?.length === 0 ? (
          <Message title="No job yet">
            <p className="mb-3">Make one and say what must be warmed; or look at a made-up example first.</p>
            <Button onClick={() => make({ example: "tram-depot" })}>Open an example</Button>
          </Message>
        ) : null}
        {jobs.data && jobs.data.length > 0 ? <Lines jobs={jobs.data} /> : null}
      </main>
    </div>
  );
}

const URGENT = new Set(["change_over_due", "bypass_open", "sign_off_waiting", "joint_open", "plan_stop"]);

function Lines({ jobs }: { jobs: JobLine[] }) {
  return (
    <>
      <p className="mb-2 text-small text-muted">Sorted by what needs a person next.</p>
      <ul className="border-t-[1.5px] border-frame">
        {jobs.map((job) => (
          <li key={job.id} className="border-b border-rule">
            <Link to={`/jobs/${job.id}/${job.next.stage}`} className="grid min-h-14 grid-cols-[1fr_auto] items-center gap-4 px-2 py-2 hover:bg-card">
              <span className="min-w-0">
                <span className="block truncate text-base font-semibold">{job.name}</span>
                <span className="block truncate text-small text-muted">{[job.place, job.note].filter(Boolean).join(" · ")}</span>
              </span>
              <span className={`text-right font-medium ${URGENT.has(job.next.code) ? "text-ember-ink" : "text-ink-2"}`}>{job.next.words}</span>
            </Link>
          </li>
        ))}
      </ul>
    </>
  );
}
