const ADDRESS = /https?:\/\/[^\s<>"'“”]+[^\s<>"'“”.,;:!?)]/g;

/** The web addresses in a text, each once. */
export const addressesIn = (text: string) => [...new Set(text.match(ADDRESS) ?? [])];

/** A way out of here: the other side learns nothing of where one comes from. */
export function Outward({ address }: { address: string }) {
  return (
    <a
      href={address}
      target="_blank"
      rel="noopener noreferrer"
      className="break-all underline underline-offset-4"
    >
      {address}
    </a>
  );
}
