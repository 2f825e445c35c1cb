import { DropdownMenu } from "radix-ui";
import {
  useCallback,
  useState,
  type ComponentProps,
  type ReactElement,
  type ReactNode,
} from "react";

interface Props {
  trigger: ReactElement;
  children: ReactNode;
  side?: "top" | "bottom";
  align?: "start" | "center" | "end";
  gap?: number;
  /** False: what is beneath can still be read and pressed. */
  modal?: boolean;
  defaultOpen?: boolean;
}

/** A menu on what opens it: never taller than the room there is, and never carried off the window with it. */
export function Menu({ trigger, children, side, align, gap, modal, defaultOpen }: Props) {
  const [opener, setOpener] = useState<HTMLElement | null>(null);
  // What stands above may arrive while the menu is open, and push its opener off the window; the menu hangs on it.
  const held = useCallback(
    (content: HTMLElement | null) => {
      if (!content || !opener) return;
      const watch = new IntersectionObserver(([seen]) => {
        if (!seen!.isIntersecting) opener.scrollIntoView({ block: "nearest" });
      });
      watch.observe(opener);
      return () => watch.disconnect();
    },
    [opener],
  );
  return (
    <DropdownMenu.Root modal={modal} defaultOpen={defaultOpen}>
      <DropdownMenu.Trigger asChild ref={setOpener}>
        {trigger}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          ref={held}
          side={side}
          align={align}
          sideOffset={gap}
          collisionPadding={4}
          className="sheet z-40 max-h-(--radix-dropdown-menu-content-available-height) min-w-48 overflow-y-auto py-1 shadow-lg"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** One thing that can be chosen in a menu. */
export function MenuItem(props: ComponentProps<typeof DropdownMenu.Item>) {
  return (
    <DropdownMenu.Item
      {...props}
      className="block cursor-pointer px-3 py-1.5 text-sm outline-none data-disabled:cursor-default data-disabled:text-faded data-highlighted:bg-wash"
    />
  );
}

/** What the items below it have in common. */
export function MenuLabel({ children }: { children: ReactNode }) {
  return (
    <DropdownMenu.Label className="mt-1 border-t border-rule px-3 pt-2 text-xs text-faded">
      {children}
    </DropdownMenu.Label>
  );
}
