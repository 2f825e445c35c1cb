import { useQuery } from "@tanstack/react-query";
import { Trouble, Wait } from "../../parts/states";
import { t } from "../../texts";

interface Licence {
  group: keyof typeof t.about.groups;
  name: string;
  version: string;
  licence: string;
}

/** What the program is, and what it stands on, each with its licence. */
export function About() {
  const licences = useQuery({
    queryKey: ["licences"],
    staleTime: Infinity,
    queryFn: async () => (await (await fetch("/static/licences.json")).json()) as Licence[],
  });
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="text-2xl">{t.about.title}</h1>
      <p className="mt-2 font-serif">{t.about.intro}</p>
      {licences.isPending && <Wait />}
      {licences.error && <Trouble error={licences.error} again={() => void licences.refetch()} />}
      {Object.keys(t.about.groups).map((group) => (
        <section key={group} aria-labelledby={group} className="mt-6">
          <h2 id={group} className="mb-1 border-b border-rule pb-1 text-base">
            {t.about.groups[group]}
          </h2>
          <ul className="text-sm">
            {licences.data
              ?.filter((one) => one.group === group)
              .map((one) => (
                <li key={one.name} className="flex flex-wrap justify-between gap-x-4 py-0.5">
                  <span>
                    {one.name} <span className="text-faded">{one.version}</span>
                  </span>
                  <span className="text-faded">{one.licence}</span>
                </li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  );
}
