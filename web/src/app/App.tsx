import { QueryClient, QueryClientProvider, useQuery, useQueryClient } from "@tanstack/react-query";
import { Suspense, lazy, useEffect, useMemo } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { type Person, type Vocabulary, answer, api, rememberCsrf } from "../api/client";
import { forgetAll } from "../job/kept";
import { Message, Skeleton } from "../ui/controls";
import { type Surroundings, SurroundingsContext } from "./context";
import { JobList } from "./JobList";
import { SignIn } from "./SignIn";

const JobPage = lazy(async () => ({ default: (await import("./JobPage")).JobPage }));

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

export function App() {
  return (
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <WhoIsThere />
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

function WhoIsThere() {
  const queries = useQueryClient();
  const me = useQuery({
    queryKey: ["me"],
    queryFn: async () => {
      const person = await answer(api.GET("/api/me"));
      rememberCsrf(person.csrf);
      return person;
    },
  });
  useTheme(me.data?.theme ?? "auto");
  const signedIn = (person: Person) => {
    rememberCsrf(person.csrf);
    queries.setQueryData(["me"], person);
  };
  if (me.isPending) return <Waiting />;
  if (me.isError)
    return (
      <div className="p-6">
        <Message failed title={me.error.message}>
          Load the page again when there is signal. What you typed is kept in this browser.
        </Message>
      </div>
    );
  return me.data.name === null ? <SignIn onSignedIn={signedIn} /> : <SignedIn person={me.data} onChange={signedIn} />;
}

function Waiting() {
  return (
    <div className="mx-auto max-w-3xl p-6">
      <Skeleton />
    </div>
  );
}

function SignedIn({ person, onChange }: { person: Person; onChange: (person: Person) => void }) {
  const vocabulary = useQuery({ queryKey: ["vocabulary"], staleTime: Infinity, queryFn: () => answer(api.GET("/api/vocabulary")) });
  if (vocabulary.isError)
    return (
      <div className="p-6">
        <Message failed title={vocabulary.error.message}>
          Load the page again when there is signal.
        </Message>
      </div>
    );
  return vocabulary.data ? <Pages person={person} vocabulary={vocabulary.data} onChange={onChange} /> : <Waiting />;
}

function Pages({ person, vocabulary, onChange }: { person: Person; vocabulary: Vocabulary; onChange: (person: Person) => void }) {
  const queries = useQueryClient();
  const surroundings = useMemo<Surroundings>(
    () => ({
      person,
      vocabulary,
      kinds: Object.fromEntries(vocabulary.quantities.map((k) => [k.name, k])),
      change: (what) => {
        onChange({ ...person, ...what });
        // The choice holds on this screen even where the server cannot be told just now.
        void answer(api.PATCH("/api/me", { body: what })).then(onChange, () => undefined);
      },
      signOut: () => {
        void answer(api.POST("/api/sign-out")).then((nobody) => {
          forgetAll();
          queries.clear();
          onChange(nobody);
        }, () => undefined);
      },
    }),
    [person, vocabulary, onChange, queries],
  );
  return (
    <SurroundingsContext value={surroundings}>
      <Suspense fallback={<Waiting />}>
        <Routes>
          <Route path="/" element={<JobList />} />
          <Route path="/jobs/:jobId" element={<Navigate to="need" replace />} />
          <Route path="/jobs/:jobId/:stage" element={<JobPage />} />
          <Route path="/jobs/:jobId/:stage/:runId" element={<JobPage />} />
          <Route
            path="*"
            element={
              <div className="p-6">
                <Message title="There is nothing at this address">
                  <a href="/" className="underline">
                    Go to the jobs
                  </a>
                </Message>
              </div>
            }
          />
        </Routes>
      </Suspense>
    </SurroundingsContext>
  );
}
