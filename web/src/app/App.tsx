import { t } from "@lingui/core/macro";
import { QueryClient, QueryClientProvider, useQuery, useQueryClient } from "@tanstack/react-query";
import { Suspense, lazy, useCallback, useEffect, useMemo, useState } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { Problem, type Person, type Vocabulary, answer, api } from "../api/client";
import { engine } from "../engine/ask";
import { lineFree } from "../engine/line";
import { Device } from "../outbox/device";
import { Sender } from "../outbox/sender";
import { askToKeep } from "../outbox/storage";
import { WaitingLine } from "../outbox/WaitingLine";
import { Button, Message, Skeleton } from "../ui/controls";
import { Guarded } from "../ui/Guarded";
import { type Surroundings, SurroundingsContext } from "./context";
import { Board } from "../crew/Board";
import { Instruments } from "../crew/Instruments";
import { JobList } from "../jobs/JobList";
import { People } from "../crew/People";
import { SignIn } from "./SignIn";
import { StartsPage } from "../jobs/StartsPage";
import { Stock } from "../crew/Stock";
import { TeamNotices } from "../crew/TeamNotices";
import { install } from "./version";
import { type Known, onOtherTab, remember, remembered, signOut, tellPreferences, whoIsThere } from "./who";
import { englishOf, speak } from "../words/words";
import { proven } from "../outbox/time";

const VerifyPage = lazy(async () => ({ default: (await import("./VerifyPage")).VerifyPage }));
const GuidePage = lazy(async () => ({ default: (await import("../help/GuidePage")).GuidePage }));
const jobPage = () => import("../jobs/JobPage");
const JobPage = lazy(async () => ({ default: (await jobPage()).JobPage }));

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, networkMode: "always" } } });

void lineFree().then(install);

export function App() {
  return (
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <Guarded what={t`This page`}>
          <Routes>
            <Route path="/verify" element={<OpenPage />} />
            <Route path="*" element={<WhoIsThere />} />
          </Routes>
        </Guarded>
      </BrowserRouter>
    </QueryClientProvider>
  );
}

function useTheme(theme: Person["theme"]) {
  useEffect(() => {
    const dark = globalThis.matchMedia("(prefers-color-scheme: dark)");
    const put = () => {
      document.documentElement.dataset["theme"] = theme === "auto" ? (dark.matches ? "dark" : "light") : theme;
    };
    put();
    dark.addEventListener("change", put);
    return () => dark.removeEventListener("change", put);
  }, [theme]);
}

/** A page that stands open to anyone. */
function OpenPage() {
  useTheme(remembered()?.theme ?? "auto");
  return (
    <Suspense fallback={<Waiting />}>
      <VerifyPage />
    </Suspense>
  );
}

function WhoIsThere() {
  const [person, setPerson] = useState(remembered);
  const [asked, setAsked] = useState(false);
  const [notice, setNotice] = useState("");
  const know = useCallback((known: Known | null) => {
    remember(known);
    setPerson(known);
  }, []);
  const enter = useCallback(
    (known: Known) => {
      setNotice("");
      know(known);
    },
    [know],
  );
  // What another tab does with the sign-in holds here at once: nothing of one person is shown beside another.
  useEffect(
    () =>
      onOtherTab((known) => {
        if (known?.id === person?.id) return;
        setNotice(
          known ? t`${known.name} has signed in on another tab.` : person ? t`${person.name} has signed out on another tab.` : "",
        );
        setAsked(true);
        setPerson(known);
      }),
    [person],
  );
  useTheme(person?.theme ?? "auto");
  // While somebody types their name, what every page and every job needs comes along.
  const client = useQueryClient();
  useEffect(() => {
    void client.prefetchQuery(VOCABULARY);
    void jobPage().catch(() => undefined);
  }, [client]);
  useEffect(() => {
    if (person) return;
    // A session may be open without anybody remembered here; without an answer the door stands as well.
    void whoIsThere()
      .then(
        (known) => known && know(known),
        () => undefined,
      )
      .finally(() => setAsked(true));
  }, [person, know]);
  if (person)
    return (
      <>
        {notice ? (
          <p role="status" data-testid="other-tab" className="no-print bg-ember-wash px-5 py-2 text-small">
            {notice} <Button look="quiet" onClick={() => setNotice("")}>{t`OK`}</Button>
          </p>
        ) : null}
        <SignedIn key={person.id} person={person} know={know} />
      </>
    );
  return asked ? <SignIn onSignedIn={enter} notice={notice} /> : <Waiting />;
}

function Waiting() {
  return (
    <div className="mx-auto max-w-3xl p-6">
      <Skeleton />
    </div>
  );
}

async function readVocabulary(): Promise<Vocabulary> {
  const response = await fetch(`/engine/${__ENGINE_KEY__}/vocabulary.json`);
  if (!response.ok)
    throw new Problem({ status: response.status, title: t`Part of the application is missing`, detail: t`Load this page again.` });
  return (await response.json()) as Vocabulary;
}

const VOCABULARY = { queryKey: ["vocabulary"], staleTime: Infinity, queryFn: readVocabulary };

function SignedIn({ person, know }: { person: Known; know: (person: Known | null) => void }) {
  const vocabulary = useQuery(VOCABULARY);
  if (vocabulary.isError)
    return (
      <div className="p-6">
        <Message
          failed
          title={vocabulary.error.message}
        >{t`Load the page again when there is signal. What you recorded is saved on this device.`}</Message>
      </div>
    );
  return vocabulary.data ? <Pages person={person} vocabulary={vocabulary.data} know={know} /> : <Waiting />;
}

/** This person's device store and sender, for as long as the person is here; and what the server says of the session. */
function useAtWork(person: Known, vocabulary: Vocabulary, know: (person: Known | null) => void) {
  const { id, name } = person;
  const [clockOffS, setClockOffS] = useState(0);
  const device = useMemo(() => new Device(id), [id]);
  const look = useCallback(async (): Promise<boolean> => {
    try {
      const known = await whoIsThere();
      if (!known) return false;
      const ahead = Date.now() / 1000 - known.now;
      setClockOffS(ahead);
      proven(ahead);
      if (known.id === id) await device.meet(known.epoch);
      // Somebody else has signed in on this device: what this person kept stays closed.
      know(known);
      return known.id === id;
    } catch {
      return true;
    }
  }, [id, know, device]);
  const sender = useMemo(
    () => new Sender(device, vocabulary.core_version, look, undefined, name),
    [device, name, vocabulary, look],
  );
  useEffect(() => {
    // What was answered last stands there until the engine is up.
    engine();
    const check = () => void look().then((mine) => sender.signedIn(mine));
    check();
    void device.tidy();
    void askToKeep();
    globalThis.addEventListener("online", check);
    globalThis.addEventListener("offline", sender.lostSignal);
    if (!navigator.onLine) sender.lostSignal();
    return () => {
      sender.stop();
      globalThis.removeEventListener("online", check);
      globalThis.removeEventListener("offline", sender.lostSignal);
    };
  }, [device, sender, look]);
  return { device, sender, clockOffS };
}

function Pages({ person, vocabulary, know }: { person: Known; vocabulary: Vocabulary; know: (person: Known | null) => void }) {
  speak(englishOf(person), vocabulary.terms);
  const { device, sender, clockOffS } = useAtWork(person, vocabulary, know);
  const toldOfMe = useCallback(
    ({ id, team, team_id, role, teams, asked_into }: Person) => {
      if (id === person.id) know({ ...person, team, team_id, role, teams, asked_into });
    },
    [person, know],
  );
  const surroundings = useMemo<Surroundings>(
    () => ({
      person,
      vocabulary,
      device,
      sender,
      clockOffS,
      kinds: Object.fromEntries(vocabulary.quantities.map((k) => [k.name, k])),
      change: (what) => {
        know({ ...person, ...what });
        void tellPreferences(what);
      },
      workIn: (team) => {
        void answer(api.PATCH("/api/me", { body: { team_id: team } })).then(toldOfMe, () => undefined);
      },
      toldOfMe,
      signIn: (known) => {
        know(known);
        if (known.id === person.id) sender.signedIn(true);
      },
      signOut: () => {
        void signOut()
          .catch(() => undefined)
          .finally(() => know(null));
      },
    }),
    [person, vocabulary, device, sender, clockOffS, know, toldOfMe],
  );
  return (
    <SurroundingsContext value={surroundings}>
      <div className="flex min-h-dvh flex-col">
        <WaitingLine />
        <TeamNotices />
        <Suspense fallback={<Waiting />}>
          <Routes>
            <Route path="/" element={<JobList key={person.team_id} />} />
            <Route path="/new" element={<StartsPage />} />
            <Route path="/people" element={<People />} />
            <Route path="/board" element={<Board />} />
            <Route path="/stock" element={<Stock />} />
            <Route path="/instruments" element={<Instruments />} />
            <Route path="/help" element={<GuidePage />} />
            <Route path="/help/:page" element={<GuidePage />} />
            <Route path="/jobs/:jobId" element={<Navigate to="need" replace />} />
            <Route path="/jobs/:jobId/:stage" element={<JobPage />} />
            <Route path="/jobs/:jobId/:stage/:runId" element={<JobPage />} />
            <Route
              path="*"
              element={
                <div className="p-6">
                  <Message title={t`There is no page at this address`}>
                    <a href="/" className="underline">{t`Go to the jobs`}</a>
                  </Message>
                </div>
              }
            />
          </Routes>
        </Suspense>
      </div>
    </SurroundingsContext>
  );
}
