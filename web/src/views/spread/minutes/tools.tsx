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
    <Menu
      align="end"
      trigger={
        <button
          type="button"
          tabIndex={tab}
          className={`plain px-1.5 text-sm ${seen}`}
          aria-label={t.minutes.tools({ line: line.text })}
        >
          ⋯
        </button>
      }
    >
      {!line.hand && <MenuItem onSelect={confirm}>{confirmWord}</MenuItem>}
      <MenuItem onSelect={correct}>{t.spread.correct}</MenuItem>
      <MenuItem onSelect={remove}>{t.spread.remove}</MenuItem>
      {up && <MenuItem onSelect={up}>{t.minutes.moveUp}</MenuItem>}
      {down && <MenuItem onSelect={down}>{t.minutes.moveDown}</MenuItem>}
      <MenuLabel>{t.minutes.moveTo}</MenuLabel>
      {sections
        .filter((one) => one.key !== line.section)
        .map((one) => (
          <MenuItem key={one.key} onSelect={() => move(one.key, one.heading)}>
            {one.heading}
          </MenuItem>
        ))}
    </Menu>
  );
}
import { Menu, MenuItem, MenuLabel } from "../../../parts/menu";
