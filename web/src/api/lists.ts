// Lists of the server after a change of this page: what was asked for before it and is still on its way is dropped.
import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** Ask for a list anew. Without this an answer to a question of before the change would stand for good. */
export async function lookAgain(client: QueryClient, queryKey: QueryKey): Promise<void> {
  await client.cancelQueries({ queryKey });
  await client.invalidateQueries({ queryKey });
}

/** Take over what the server said of a list as it changed it. */
export async function nowIs<T>(client: QueryClient, queryKey: QueryKey, data: T): Promise<void> {
  await client.cancelQueries({ queryKey });
  client.setQueryData(queryKey, data);
}
