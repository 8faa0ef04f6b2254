import type { QueryClient } from "@tanstack/react-query";

/**
 * Ask anew for all that is known under these keys, after something of it was changed.
 *
 * A question that is under way, asked before the change, may bring the answer of before: it is given
 * up first, since a first one would be waited for instead of asked again.
 */
export async function askAnew(queries: QueryClient, ...keys: string[]): Promise<void> {
  await Promise.all(
    keys.map(async (key) => {
      await queries.cancelQueries({ queryKey: [key] });
      await queries.invalidateQueries({ queryKey: [key] });
    }),
  );
}
