import { RadioGroup } from "radix-ui";
import { useId } from "react";
import type { Schemas } from "../api/client";
import { useWouldSee } from "../api/hooks";
import { t } from "../texts";

export type Visibility = Schemas["Visibility"];

interface Props {
  value: Visibility;
  change: (value: Visibility) => void;
  disabled?: boolean;
  /** Of a meeting that is to be made: those named as present. */
  people?: string[];
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
  meeting,
  readers,
  onShelves = false,
}: Props) {
  const would = useWouldSee({
    visibility: value,
    people,
    readers: readers ?? [],
    meeting: meeting?.id ?? null,
  });
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
  const id = useId();
  const maker = meeting.seen_by.find((one) => one.made_it)?.member;
  const others = members.filter((one) => one.id !== maker);
  const toggle = (member: number) =>
    change(
      readers.includes(member) ? readers.filter((one) => one !== member) : [...readers, member],
    );
  return (
    <fieldset aria-describedby={id}>
      <legend className="mb-1 font-serif text-sm">{t.seen.byName}</legend>
      <ul className="max-h-52 overflow-y-auto border border-rule px-3 py-1">
        {others.map((one) => (
          <li key={one.id}>
            <label className="flex cursor-pointer items-center gap-2 py-1">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={readers.includes(one.id)}
                onChange={() => toggle(one.id)}
              />
              {one.role === "guest" ? t.seen.guest({ name: one.name }) : one.name}
            </label>
          </li>
        ))}
      </ul>
      <p id={id} className="mt-1 text-xs text-faded">
        {t.seen.byNameHint}
      </p>
    </fieldset>
  );
}
