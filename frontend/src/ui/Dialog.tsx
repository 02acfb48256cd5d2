import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
}

/** A question to the whole screen, in its middle. Escape closes it and gives the focus back. */
export function Dialog({ open, onClose, title, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={(shown) => !shown && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-20 bg-veil" />
        <Radix.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-21 w-[min(560px,100vw-32px)] -translate-x-1/2 rounded-sheet border border-rule-firm bg-paper p-4"
        >
          <Radix.Title className="text-title font-semibold">{title}</Radix.Title>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
