import { useState } from "react";
import { useChoices } from "../api/hooks";
import { t } from "../texts";

/** A list of names one types into; known names are offered. */
export function Names({
  names,
  change,
  label,
  id,
  hint,
}: {
  names: string[];
  change: (names: string[]) => void;
  label: string;
  id: string;
  hint?: string;
}) {
  const [typed, setTyped] = useState("");
  const choices = useChoices();
  function add(text: string) {
    const fresh = text
      .split(/[,;\n]/)
      .map((name) => name.trim())
      .filter((name) => name && !names.some((known) => known.toLowerCase() === name.toLowerCase()));
    if (fresh.length) change([...names, ...fresh]);
    setTyped("");
  }
  return (
    <div>
      {names.length > 0 && (
        <ul className="mb-2 flex flex-wrap gap-2">
          {names.map((name) => (
            <li
              key={name}
              className="flex items-center rounded-card border border-rule bg-wash pl-2 font-serif text-sm"
            >
              {name}
              <button
                type="button"
                aria-label={t.give.remove_person({ name })}
                className="plain px-2"
                onClick={() => change(names.filter((one) => one !== name))}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
      <input
        id={id}
        aria-label={label}
        placeholder={hint}
        list={`${id}-known`}
        className="field"
        value={typed}
        autoComplete="off"
        onChange={(event) => {
          const text = event.target.value;
          // Picking from the list puts a whole known name in at once.
          if (choices.data?.people.includes(text) && !(event.nativeEvent as InputEvent).inputType)
            add(text);
          else setTyped(text);
        }}
        onKeyDown={(event) => {
          if ((event.key === "Enter" || event.key === ",") && typed.trim()) {
            event.preventDefault();
            add(typed);
          }
        }}
        onBlur={() => {
          if (typed.trim()) add(typed);
        }}
      />
      <datalist id={`${id}-known`}>
        {choices.data?.people
          .filter((name) => !names.includes(name))
          .map((name) => (
            <option key={name} value={name} />
          ))}
      </datalist>
    </div>
  );
}
