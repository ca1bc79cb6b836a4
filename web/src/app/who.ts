// Who works on this device: remembered here, so that work goes on without signal and after the session has ended.
import { type Person, answer, api, rememberCsrf } from "../api/client";

export type Known = Person & { id: number; name: string };

const KEY = "ofen.person";
const UNSENT = "ofen.preferences";
const LEFT = "ofen.left";

const isKnown = (person: Person): person is Known => person.id !== null && person.name !== null;

/** The person who signed in last on this device and has not signed out. */
export function remembered(): Known | null {
  try {
    const found = JSON.parse(localStorage.getItem(KEY) ?? "null") as Known | null;
    return found && typeof found.id === "number" ? found : null;
  } catch {
    return null;
  }
}

/** Be told when somebody signs out, or somebody else in, in another tab; returns how to be told no more. */
export function onOtherTab(told: (person: Known | null) => void): () => void {
  const listen = (event: StorageEvent) => {
    if (event.key === KEY) told(remembered());
  };
  globalThis.addEventListener("storage", listen);
  return () => globalThis.removeEventListener("storage", listen);
}

export function remember(person: Known | null) {
  if (person) localStorage.setItem(KEY, JSON.stringify(person));
  else localStorage.removeItem(KEY);
}

/** Ask the server who is signed in; null for nobody. Preferences changed without signal are told first. */
export async function whoIsThere(): Promise<Known | null> {
  const person = await answer(api.GET("/api/me"));
  rememberCsrf(person.csrf);
  if (!isKnown(person)) return null;
  if (localStorage.getItem(LEFT)) {
    await signOut();
    return null;
  }
  const mine = remembered();
  if (mine?.id === person.id && localStorage.getItem(UNSENT)) {
    const told = await answer(api.PATCH("/api/me", { body: { units: mine.units, english: mine.english, theme: mine.theme } }));
    localStorage.removeItem(UNSENT);
    if (isKnown(told)) return told;
  }
  return person;
}

/** Tell the server how this person likes to see things; without an answer it is told later. */
export async function tellPreferences(what: Partial<Pick<Person, "units" | "english" | "theme">>): Promise<void> {
  localStorage.setItem(UNSENT, "1");
  try {
    await answer(api.PATCH("/api/me", { body: what }));
    localStorage.removeItem(UNSENT);
  } catch {
    // It stays marked, and the next answer of the server takes it along.
  }
}

export async function signIn(name: string, password: string): Promise<Known> {
  rememberCsrf((await answer(api.GET("/api/me"))).csrf);
  const person = await answer(api.POST("/api/sign-in", { body: { name, password } }));
  rememberCsrf(person.csrf);
  if (!isKnown(person)) throw new Error("signed in as nobody");
  localStorage.removeItem(LEFT);
  remember(person);
  return person;
}

/** Leave this device: at once here, and at the server as soon as there is an answer. What waits stays, closed, for the next sign-in. */
export async function signOut(): Promise<void> {
  remember(null);
  localStorage.setItem(LEFT, "1");
  rememberCsrf((await answer(api.POST("/api/sign-out"))).csrf);
  localStorage.removeItem(LEFT);
}
