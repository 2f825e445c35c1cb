// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Schemas } from "./client";
import { keys } from "./hooks";
import { useSeenBy } from "./usual";

vi.stubGlobal("fetch", () => new Promise(() => undefined));
afterEach(cleanup);

type Props = { said: Schemas["Visibility"] | null; series: string };

it("takes what is usual in a series, also where that is known only after it was typed", async () => {
  const cache = new QueryClient();
  const before: Props = { said: null, series: "Works" };
  const { result, rerender } = renderHook(({ said, series }: Props) => useSeenBy(said, series), {
    initialProps: before,
    wrapper: ({ children }) => <QueryClientProvider client={cache}>{children}</QueryClientProvider>,
  });
  expect(result.current).toBe("named");
  cache.setQueryData(keys.me, { usual_visibility: "mine" });
  await waitFor(() => expect(result.current).toBe("mine"));
  cache.setQueryData(keys.choices, { series: ["Works"], seen: { Works: "workspace" } });
  await waitFor(() => expect(result.current).toBe("workspace"));
  rerender({ said: null, series: "Works and more" });
  expect(result.current).toBe("mine");
  rerender({ said: "named", series: "Works" });
  expect(result.current).toBe("named");
});
