import { type Ref } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { csrfToken } from "../api/client";
import { t } from "../texts";

/** The way to a provider, where one shows who one is. A form and not a script: the browser leaves the page. */
export function Gateway({
  provider,
  back,
  process = "login",
  label,
  main = false,
  form,
}: {
  provider: Schemas["ProviderOut"];
  back: string;
  process?: "login" | "connect";
  label: string;
  main?: boolean;
  form?: Ref<HTMLFormElement>;
}) {
  const given = { csrfmiddlewaretoken: csrfToken(), provider: provider.id, callback_url: back };
  return (
    <form ref={form} method="post" action="/_allauth/browser/v1/auth/provider/redirect">
      {Object.entries({ ...given, process }).map(([name, value]) => (
        <input key={name} type="hidden" name={name} value={value} />
      ))}
      <button
        type="submit"
        className={main ? "press press-main" : "press max-w-full justify-center"}
      >
        {label}
      </button>
    </form>
  );
}

/** What one is told on the way back, where something is amiss; its code, and the words for it. */
export function useTurnedBack(): { code: string; words: string } | null {
  const [params] = useSearchParams();
  const code = params.get("error");
  if (!code) return null;
  const known: Partial<Record<string, string>> = t.door.trouble;
  return { code, words: known[code] ?? t.door.trouble.other };
}
