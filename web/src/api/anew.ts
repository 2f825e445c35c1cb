import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * Have what is shown under a key asked for anew; done when it is here.
 *
 * A first answer that is still on its way may have been read before the news: the library would take it for the news (it begins no
 * second request while there is no answer at all), so it is asked for once more when it has come.
 */
export async function anew(cache: QueryClient, queryKey: QueryKey, exact = false): Promise<void> {
  const first = cache
    .getQueryCache()
    .findAll({ queryKey, exact, fetchStatus: "fetching" })
    .filter((query) => query.state.data === undefined);
  await Promise.all([
    cache.invalidateQueries({ queryKey, exact }),
    ...first.map(async (query) => {
      // A failure is shown where it was asked for.
      await query.promise?.catch(() => undefined);
      await cache.invalidateQueries({ queryKey: query.queryKey, exact: true });
    }),
  ]);
}
