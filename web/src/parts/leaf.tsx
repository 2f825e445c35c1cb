import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { t } from "../texts";

/** A loose leaf laid over the page: a dialog with a title, closed by Escape or a press beside it. */
export function Leaf({
  title,
  hint,
  wide = false,
  close,
  children,
}: {
  title: string;
  hint?: ReactNode;
  wide?: boolean;
  close: () => void;
  children: ReactNode;
}) {
  return (
    <Dialog.Root
      open
      onOpenChange={(open) => {
        if (!open) close();
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-veil" />
        <Dialog.Content
          // A saying that has come meanwhile lies above the leaf and takes Escape for itself.
          onKeyDown={(event) => {
            if (event.key === "Escape" && event.currentTarget.contains(event.target as Node))
              close();
          }}
          {...(hint ? {} : { "aria-describedby": undefined })}
          className={`sheet fixed top-1/2 left-1/2 z-50 max-h-[92dvh] ${wide ? "w-[min(58rem,calc(100vw-1.5rem))]" : "w-[min(40rem,calc(100vw-1.5rem))]"} -translate-x-1/2 -translate-y-1/2 overflow-y-auto p-6`}
        >
          <Dialog.Title className="text-lg">{title}</Dialog.Title>
          {hint && (
            <Dialog.Description className="mt-1 mb-3 text-sm text-faded">{hint}</Dialog.Description>
          )}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The foot of a form on a leaf: do it, or leave it. */
export function Foot({
  act,
  off,
  close,
  className,
}: {
  act: string;
  off: boolean;
  close: () => void;
  className: string;
}) {
  return (
    <p className={className}>
      <button type="submit" className="press press-main" disabled={off}>
        {act}
      </button>
      <button type="button" className="plain" onClick={close}>
        {t.record.leave}
      </button>
    </p>
  );
}
