// The one way to the server: typed by the contract, the CSRF token on every change, refusals as Problem.
import { t } from "@lingui/core/macro";
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./generated/contract";

type Schemas = components["schemas"];
export type Person = Schemas["PersonOut"];
export type Role = Schemas["TeamOut"]["role"];
export type JobLine = Schemas["JobLine"];
export type Job = Schemas["JobOut"];
export type Plan = Schemas["PlanAnswer"];
export type Forecast = Schemas["Forecast"];
export type Stage = Schemas["Assessment"];
export type StageName = Stage["stage"];
export type Figure = Schemas["Figure"];
export type Verdict = Schemas["Verdict"];
/** A page of a stage. */
export type Part = Verdict["part"];
export type Level = Verdict["level"];
/** The worst first. */
export const LEVELS: Level[] = ["stop", "caution", "not_checked", "note", "good"];
export type SupplyPlan = Schemas["SupplyPlan"];
export type PlacedMachine = Schemas["PlacedMachine"];
export type PathNode = Schemas["PathNode"];
export type Way = Schemas["Way"];
export type HandingOver = Schemas["StandingOut"];
export type ReportMade = Schemas["ReportOut"];
export type JobCopy = Schemas["CopyOut"];
export type RunNow = Schemas["RunNow"];
export type Procedure = Schemas["SealedProcedure"];
export type Signed = Schemas["SignedOut"];
export type MachineState = Schemas["MachineState"];
export type OutboxResult = Schemas["ResultOut"];
export type ProblemBody = Schemas["ProblemOut"];
export type Step = Procedure["steps"][number];
export type StepState = RunNow["state"]["steps"][number];
export type Gate = Schemas["Gate"];
export type Entry = Schemas["LogEntry"];
export type RunEvent = Schemas["RunEvent"];
/** The tables of a stage, as far as it has them. */
export type Tables = Schemas["Tables"];
/** One row of a table of a stage. */
export type Row<T extends keyof Tables> = NonNullable<Tables[T]>[number];
/** Every question to the core: what is asked, and what is answered. */
export type Questions = Schemas["Questions"];
export type Asks<K extends keyof Questions> = Questions[K]["asks"];
export type Answers<K extends keyof Questions> = Questions[K]["answers"];
/** What a device asks its own engine alone. */
export type OfTheDevice = "changes" | "verify" | "bring_in";
/** What may be asked of the server as well. */
export type Asked = Exclude<keyof Questions, OfTheDevice>;
export type LogKind = Schemas["LogKind"];
export type Vocabulary = Schemas["Vocabulary"];
export type QuantityKind = Schemas["QuantityKind"];
export type Fault = Schemas["Fault"];
export type StartKind = Schemas["Start"];
export type Question = Schemas["StartInput"];
export type Started = Schemas["Started"];
export type OwnStart = Schemas["OwnStartOut"];
export type Assumed = Schemas["Assumed"];
export type OpenThing = Schemas["OpenItem"];
export type StageLine = Schemas["StageLine"];
export type RunningAnswer = Schemas["RunningAnswer"];
export type Instrument = Schemas["InstrumentOut"];
export type Used = Schemas["Used"];
export type InstrumentKind = Schemas["InstrumentKind"];
export type Live = Schemas["LiveOut"];
export type Shown = Schemas["ShownOut"];
export type Faults = Schemas["FaultsAnswer"];
export type Cause = Schemas["RankedCause"];
export type Kit = Schemas["KitAnswer"];
export type KitItem = Schemas["ListedItem"];
export type Bring = Schemas["Bring"];
export type Holds = Schemas["Holds"];
export type Stopping = Schemas["StopOrderAnswer"];
export type Due = Schemas["DueAnswer"];
export type VisitField = Schemas["VisitField"];
export type DueItem = Schemas["DueItem"];
export type SafetyTest = Schemas["SafetyTestNow"];
export type BoardLine = Schemas["BoardLine"];
export type StopOfDay = Schemas["StopOfDay"];
export type Vessel = Schemas["VesselOut"];
export type Imported = Schemas["ImportOut"];
export type ImportPreview = Schemas["PreviewOut"];
export type ChartData = Schemas["ChartOut"];
export type SeriesLine = Schemas["SeriesOut"];

/** A commissioning run with what its events lead to. */
export interface Run extends RunNow {
  id: string;
  job: string;
  unit: string;
  signed: Signed | null;
  /** Signed off on this device only; the server has not confirmed it yet. */
  signedHere: boolean;
  /** Why the server did not take the sign-off, until somebody has read it, and when that was made. */
  refusal: ProblemBody | null;
  refusedAt: string | null;
  /** Events of it that wait on this device. */
  waiting: number;
}

type Refusal = Pick<ProblemBody, "status" | "title" | "detail"> & Partial<ProblemBody>;

/** A refusal of the server, or no answer at all (status 0). */
export class Problem extends Error {
  readonly status: number;
  readonly detail: string;
  readonly faults: Fault[];
  /** The mark of the server's database, where it is not the one this device knows. */
  readonly epoch: string | null;
  constructor(body: Refusal) {
    super(body.title);
    this.status = body.status;
    this.detail = body.detail;
    this.faults = body.faults ?? [];
    this.epoch = body.epoch ?? null;
  }
}

const noAnswer = (): Refusal => ({
  status: 0,
  title: t`No answer from the server`,
  detail: t`What you entered is saved on this device. It will be sent when there is signal.`,
});

let csrf = "";
export function rememberCsrf(token: string) {
  csrf = token;
}

const withCsrf: Middleware = {
  async onRequest({ request }) {
    // The first change of a page may come before it has asked who is signed in.
    if (request.method !== "GET" && csrf === "")
      csrf = await fetch("/api/me")
        .then((r) => r.json() as Promise<{ csrf?: string }>)
        .then((me) => me.csrf ?? "");
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrf);
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "/", fetch: (request) => globalThis.fetch(request) });
api.use(withCsrf);

/** A form with a file as what a call sends; the contract speaks of its fields only. */
export const asForm = (form: FormData) => ({
  body: form as unknown as { file: string },
  bodySerializer: (b: unknown) => b as FormData,
});

function isProblem(value: unknown): value is Refusal {
  return typeof value === "object" && value !== null && "title" in value && "status" in value;
}

/** Wait for an answer; every refusal and every silence becomes a Problem. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got;
  try {
    got = await call;
  } catch (problem) {
    if (problem instanceof DOMException && problem.name === "AbortError") throw problem;
    throw new Problem(noAnswer());
  }
  if (got.response.ok && got.data !== undefined) return got.data;
  if (isProblem(got.error)) throw new Problem(got.error);
  throw new Problem({
    status: got.response.status,
    title: t`The server gave an answer that cannot be read`,
    detail: t`What you typed is saved here. Try again.`,
  });
}

type Posting = (path: string, init: { body: unknown }) => Promise<{ data?: unknown; error?: unknown; response: Response }>;

/** How long to wait before a busy server is asked again. */
const BUSY_WAITS_MS = [500, 2000];

/** Ask the server what the core would answer. It keeps nothing of it, so one that is busy is asked again. */
export function askServer<K extends Asked>(question: K, asks: Asks<K>): Promise<Answers<K>> {
  const post = api.POST as Posting;
  const asked = async () => {
    for (const wait of BUSY_WAITS_MS) {
      const got = await post(`/api/ask/${question}`, { body: asks });
      if (!got.response.headers.has("Retry-After")) return got;
      await new Promise((done) => setTimeout(done, wait));
    }
    return post(`/api/ask/${question}`, { body: asks });
  };
  return answer(asked()) as Promise<Answers<K>>;
}
