import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";
import { anew } from "./anew";

/** Answers of a server, given one by one. */
function shown(cache: QueryClient, key: string[]) {
  const waiting: ((text: string) => void)[] = [];
  const observer = new QueryObserver(cache, {
    queryKey: key,
    queryFn: () => new Promise<string>((answer) => waiting.push(answer)),
  });
  const leave = observer.subscribe(() => undefined);
  return { waiting, leave, now: () => observer.getCurrentResult().data };
}

it("asks once more where the first answer was on its way when something was new", async () => {
  const cache = new QueryClient();
  const page = shown(cache, ["meeting", "1", "minutes"]);
  const other = shown(cache, ["meeting", "2"]);
  const asked = anew(cache, ["meeting", "1"]);
  page.waiting[0]!("as it was");
  await expect.poll(() => page.waiting.length).toBe(2);
  page.waiting[1]!("with the news");
  await asked;
  expect(page.now()).toBe("with the news");
  expect(other.waiting).toHaveLength(1);
  page.leave();
  other.leave();
});

it("asks for what is there once, and exactly what it is told", async () => {
  const cache = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity } } });
  cache.setQueryData(["meeting", "1"], "as it was");
  cache.setQueryData(["meeting", "1", "minutes"], "as they were");
  const page = shown(cache, ["meeting", "1"]);
  const minutes = shown(cache, ["meeting", "1", "minutes"]);
  const asked = anew(cache, ["meeting", "1"], true);
  page.waiting[0]!("with the news");
  await asked;
  expect([page.now(), page.waiting.length, minutes.waiting.length]).toEqual([
    "with the news",
    1,
    0,
  ]);
  page.leave();
  minutes.leave();
});
