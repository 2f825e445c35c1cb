import { RadioGroup } from "radix-ui";
import { t } from "../texts";

/** Who may see a meeting: least first. */
export function Seen({ value, change, disabled = false }: { value: string; change: (value: string) => void; disabled?: boolean }) {
  return (
    <RadioGroup.Root aria-label={t.give.seen} value={value} onValueChange={change} disabled={disabled} className="flex flex-wrap gap-x-6 gap-y-2">
      {Object.entries(t.visibility).map(([key, label]) => (
        <label key={key} className="flex cursor-pointer items-center gap-2">
          <RadioGroup.Item value={key} className="size-4 rounded-full border border-edge bg-paper"><RadioGroup.Indicator className="m-auto block size-2 rounded-full bg-slate" /></RadioGroup.Item>
          {label}
        </label>
      ))}
    </RadioGroup.Root>
  );
}
