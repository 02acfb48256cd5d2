import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  wide?: boolean;
  children: ReactNode;
}

/** A sheet over the whole screen. Escape closes it and gives the focus back. */
export function Sheet({ open, onClose, title, wide, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={(shown) => !shown && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-veil" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-[12vh] left-1/2 z-21 max-h-[76vh] -translate-x-1/2 overflow-y-auto rounded-sheet border border-rule-firm bg-paper p-4 ${wide ? "w-[min(820px,100vw-32px)]" : "w-[min(560px,100vw-32px)]"}`}
        >
          <Dialog.Title className="text-title font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** A way out for the pointer. */
export function SheetClose() {
  return (
    <Dialog.Close className="absolute top-4 right-4 underline decoration-1 underline-offset-2 hover:text-verdigris">
      Close
    </Dialog.Close>
  );
}
