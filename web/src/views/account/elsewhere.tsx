import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useDoor } from "../../api/hooks";
import { showAgain, tied, untie } from "../../api/session";
import { Gateway, useTurnedBack } from "../../parts/gateway";
import { useSay } from "../../parts/sayings";
import { Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";
import { Part, TIED, useSure, Wanting, WhoAgain } from "./sure";

/** Where the workspace wants one to come in by way of a provider. */
export function ProviderWanted({ me }: { me: Schemas["MeOut"] }) {
  const door = useDoor();
  if (!door.data) return <Wait />;
  const set = door.data.providers.find((one) => one.id === me.provider_wanted);
  const provider = set ?? { id: me.provider_wanted, name: me.provider_wanted };
  return (
    <Wanting
      title={t.signing.providerWanted({ name: provider.name })}
      hint={t.signing.providerWantedHint}
      email={me.email}
    >
      <Tie provider={provider} back="/" main label={t.door.by({ name: provider.name })} />
    </Wanting>
  );
}

/** Ties an identity to the account: whoever does, shows here and there who they are. */
function Tie(given: {
  provider: Schemas["ProviderOut"];
  back: string;
  label: string;
  main?: boolean;
}) {
  const turnedBack = useTurnedBack();
  const [asking, setAsking] = useState(turnedBack?.code === "reauthentication_required");
  const form = useRef<HTMLFormElement>(null);
  return (
    <>
      <Gateway {...given} process="connect" form={form} />
      {turnedBack && <Wrong error={new Error(turnedBack.words)} className="mt-2" />}
      {asking && (
        <WhoAgain
          close={() => setAsking(false)}
          shown={async (password) => {
            await showAgain(password);
            form.current?.submit();
          }}
        />
      )}
    </>
  );
}

/** The identities elsewhere by way of which one comes in; nothing where whoever runs the server knows none. */
export function Elsewhere() {
  const door = useDoor();
  const known = useQuery({ queryKey: TIED, queryFn: tied });
  const { act, error, leaf } = useSure();
  const say = useSay();
  if (!door.data?.providers.length || !known.data) return null;
  return (
    <Part title={t.signing.elsewhere} hint={t.signing.elsewhereHint}>
      {door.data.providers.map((one) => {
        const mine = known.data.find((other) => other.provider.id === one.id);
        if (!mine)
          return (
            <Tie
              key={one.id}
              provider={one}
              back="/account"
              label={t.signing.tie({ name: one.name })}
            />
          );
        const drop = async () => {
          await untie(mine);
          say(t.signing.untied);
        };
        return (
          <p key={one.id} className="flex flex-wrap items-baseline gap-4">
            {t.signing.tied({ name: one.name })}
            <button type="button" className="plain" onClick={() => void act(drop)}>
              {t.signing.untie}
            </button>
          </p>
        );
      })}
      <Wrong error={error} className="mt-2" />
      {leaf}
    </Part>
  );
}
