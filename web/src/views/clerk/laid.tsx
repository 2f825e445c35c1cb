import type { Schemas } from "../../api/client";
import { showSize } from "../../parts/size";
import { addressesIn, Outward } from "../../parts/linked";
import { t } from "../../texts";

type File = Schemas["LaidOut"];
const NEAR = 0.06; // seconds: as long as what is written takes in a record

/** The files that were put into the chat at a second of the record. */
export const filesAt = (files: readonly File[], start: number) =>
  files.filter((one) => Math.abs(one.start - start) < NEAR);

/** A file of the chat, to be saved. */
export function TakeFile({ meeting, file }: { meeting: string; file: File }) {
  return (
    <a
      href={`/api/meetings/${meeting}/files/${file.id}`}
      download={file.called}
      className="underline underline-offset-4"
    >
      {t.clerk.take({ name: file.called, size: showSize(file.size) })}
    </a>
  );
}

/** What stands in a message besides words: addresses that lead elsewhere, files. */
export function InMessage({
  meeting,
  text,
  files,
}: {
  meeting: string;
  text: string;
  files: readonly File[];
}) {
  const addresses = addressesIn(text);
  if (!addresses.length && !files.length) return null;
  return (
    <ul className="mt-0.5 border-l-2 border-rule pl-2 text-sm">
      {addresses.map((address) => (
        <li key={address}>
          <Outward address={address} />
        </li>
      ))}
      {files.map((file) => (
        <li key={file.id}>
          <TakeFile meeting={meeting} file={file} />
        </li>
      ))}
    </ul>
  );
}
