import { locale } from "../texts";

const UNITS = ["byte", "kilobyte", "megabyte", "gigabyte"] as const;

/** So many bytes, in the unit that needs the fewest figures. */
export function showSize(bytes: number): string {
  const step = Math.min(UNITS.length - 1, Math.floor(Math.log10(Math.max(1, bytes)) / 3));
  return new Intl.NumberFormat(locale, {
    style: "unit",
    unit: UNITS[step]!,
    unitDisplay: "short",
    maximumSignificantDigits: 3,
  }).format(bytes / 1000 ** step);
}
