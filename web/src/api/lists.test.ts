import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { lookAgain, nowIs } from "./lists";

/** A list whose answers come when they are let through, as a slow server gives them. */
function slowList() {
  const client = new QueryClient();
  const answers: ((list: string[]) => void)[] = [];
  const observer = new QueryObserver<string[]>(client, {
    queryKey: ["list"],
    queryFn: () => new Promise((done) => answers.push(done)),
  });
  const stop = observer.subscribe(() => undefined);
  return { client, answers, held: () => client.getQueryData<string[]>(["list"]), stop };
}

const rest = () => new Promise((done) => setTimeout(done));

test("a list asked for before a change is asked for again after it", async () => {
  const { client, answers, held, stop } = slowList();
  const looked = lookAgain(client, ["list"]);
  await rest();
  expect(answers.length).toBe(2);
  answers[0]?.([]);
  answers[1]?.(["made"]);
  await looked;
  await rest();
  expect(held()).toEqual(["made"]);
  stop();
});

test("what the server said of the change is not overwritten by what it said before", async () => {
  const { client, answers, held, stop } = slowList();
  await nowIs(client, ["list"], ["made"]);
  answers[0]?.([]);
  await rest();
  expect(held()).toEqual(["made"]);
  stop();
});
