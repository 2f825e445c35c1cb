import { DropdownMenu } from "radix-ui";
import type { Schemas } from "../../../api/client";
import { t } from "../../../texts";
import type { MinutesLine } from "./changes";

interface Props {
  line: MinutesLine;
  sections: Schemas["SectionOut"][];
  tab: number;
  confirm: () => void;
  correct: () => void;
  /** Null at the end of its section. */
  up: (() => void) | null;
  down: (() => void) | null;
  move: (section: string, heading: string) => void;
  remove: () => void;
}
const item = "cursor-pointer px-3 py-1.5 outline-none data-highlighted:bg-wash";
// In the margin, seen where the pointer or the focus is; where nothing hovers, always.
const seen =
  "md:opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 data-[state=open]:opacity-100";

/** What can be done with a line, in the margin beside it. */
export function LineTools({
  line,
  sections,
  tab,
  confirm,
  correct,
  up,
  down,
  move,
  remove,
}: Props) {
  const confirmWord = line.confirmed ? t.minutes.unconfirm : t.minutes.confirm;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          tabIndex={tab}
          className={`plain px-1.5 text-sm ${seen}`}
          aria-label={t.minutes.tools({ line: line.text })}
        >
          ⋯
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="sheet z-40 min-w-52 py-1 shadow-lg">
          {!line.hand && (
            <DropdownMenu.Item className={item} onSelect={confirm}>
              {confirmWord}
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={correct}>
            {t.spread.correct}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={remove}>
            {t.spread.remove}
          </DropdownMenu.Item>
          {up && (
            <DropdownMenu.Item className={item} onSelect={up}>
              {t.minutes.moveUp}
            </DropdownMenu.Item>
          )}
          {down && (
            <DropdownMenu.Item className={item} onSelect={down}>
              {t.minutes.moveDown}
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Label className="px-3 py-1 text-xs text-faded">
            {t.minutes.moveTo}
          </DropdownMenu.Label>
          {sections
            .filter((one) => one.key !== line.section)
            .map((one) => (
              <DropdownMenu.Item
                key={one.key}
                className={item}
                onSelect={() => move(one.key, one.heading)}
              >
                {one.heading}
              </DropdownMenu.Item>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
