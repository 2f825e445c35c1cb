/** Day, night, or as the device: kept on the device. */
export type Scheme = "auto" | "day" | "night";
const KEY = "scheme";

export function chosenScheme(): Scheme {
  const kept = localStorage.getItem(KEY);
  return kept === "day" || kept === "night" ? kept : "auto";
}

export function applyScheme(chosen: Scheme = chosenScheme()): void {
  localStorage.setItem(KEY, chosen);
  const dark =
    chosen === "night" || (chosen === "auto" && matchMedia("(prefers-color-scheme: dark)").matches);
  document.documentElement.dataset.scheme = dark ? "night" : "day";
}
