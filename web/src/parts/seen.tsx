import { RadioGroup } from "radix-ui";
import type { Schemas } from "../api/client";
import { useWouldSee } from "../api/hooks";
import { useWouldGet } from "../api/trust";
import { t } from "../texts";
import { told } from "./getting";
import { Ticks } from "./ticks";

export type Visibility = Schemas["Visibility"];

interface Props {
  value: Visibility;
  change: (value: Visibility) => void;
  disabled?: boolean;
  /** Of a meeting that is to be made: those named as present, and its series. */
  people?: string[];
  series?: string;
  /** Of one that is to be changed: itself, and the members let in by name. */
  meeting?: Schemas["MeetingOut"];
  readers?: number[];
  /** Does it stand on a shelf? */
  onShelves?: boolean;
}

const visibilities: Visibility[] = ["mine", "shelf", "named", "workspace"];

/** Who may see a meeting, least first, and who that is in names: as it is, and as it would be. */
export function Seen({
  value,
  change,
  disabled = false,
  people = [],
  series = "",
  meeting,
  readers,
  onShelves = false,
}: Props) {
  const would = useWouldSee({
    visibility: value,
    people,
    series,
    readers: readers ?? [],
    meeting: meeting?.id ?? null,
  });
  const will = useWouldGet({ visibility: value, people, series }, !meeting).data;
  const now = meeting && named(meeting.seen_by);
  // What is to be made stands on no shelf yet.
  const offered = (one: Visibility) => one !== "shelf" || value === "shelf" || onShelves;
  const then = would.data && named(would.data);
  return (
    <div>
      <RadioGroup.Root
        aria-label={t.give.seen}
        value={value}
        onValueChange={(chosen) => change(chosen as Visibility)}
        disabled={disabled}
        className="flex flex-wrap gap-x-6 gap-y-2"
      >
        {visibilities.filter(offered).map((key) => (
          <label key={key} className="flex cursor-pointer items-center gap-2">
            <RadioGroup.Item
              value={key}
              className="size-4 rounded-full border border-edge bg-paper"
            >
              <RadioGroup.Indicator className="m-auto block size-2 rounded-full bg-slate" />
            </RadioGroup.Item>
            {t.visibility[key]}
          </label>
        ))}
      </RadioGroup.Root>
      <div aria-live="polite" className="mt-2 text-sm text-faded">
        {now && <p>{t.seen.now({ names: now })}</p>}
        {then && then !== now && (
          <p className="text-ink">
            {meeting ? t.seen.then({ names: then }) : t.seen.will({ names: then })}
          </p>
        )}
        {will && will.receivers.length > 0 && <p className="text-ink">{told(will)}</p>}
      </div>
    </div>
  );
}

function named(seers: Schemas["SeerOut"][]): string {
  const most = 12;
  const names = seers
    .slice(0, most)
    .map((one) => (one.role === "guest" ? t.seen.guest({ name: one.name }) : one.name));
  return seers.length > most
    ? t.seen.more({ names: names.join(", "), n: seers.length - most })
    : names.join(", ");
}

interface ReadersProps {
  meeting: Schemas["MeetingOut"];
  members: Schemas["MemberOut"][];
  readers: number[];
  change: (readers: number[]) => void;
}

/** The members who are let in by name. */
export function Readers({ meeting, members, readers, change }: ReadersProps) {
  const maker = meeting.seen_by.find((one) => one.made_it)?.member;
  return (
    <Ticks
      legend={t.seen.byName}
      hint={t.seen.byNameHint}
      all={members
        .filter((one) => one.id !== maker)
        .map((one) => ({
          id: one.id,
          name: one.role === "guest" ? t.seen.guest({ name: one.name }) : one.name,
        }))}
      chosen={readers}
      change={change}
    />
  );
}
