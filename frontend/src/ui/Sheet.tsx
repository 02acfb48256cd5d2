import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { IconButton } from "./IconButton";
import { ScrollArea } from "./ScrollArea";

interface Props {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
}

/** Something to read beside the work: it lies along the left edge, and the rest of the screen stays in use. */
export function Sheet({ open, onClose, title, children }: Props) {
  return (
    <Dialog.Root modal={false} open={open} onOpenChange={(shown) => !shown && onClose()}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          onInteractOutside={(event) => event.preventDefault()}
          // The sheet itself takes the focus: on the button its tooltip would open and take the first Escape.
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            (event.currentTarget as HTMLElement).focus();
          }}
          className="fixed top-28 bottom-0 left-0 z-20 max-[820px]:top-0 flex w-[min(400px,100vw-32px)] flex-col border-r border-rule-firm bg-paper outline-none"
        >
          <header className="flex items-center justify-between border-b border-rule px-4 py-2">
            <Dialog.Title className="text-title font-semibold">{title}</Dialog.Title>
            <IconButton icon={X} label="Close" onClick={onClose} />
          </header>
          {/* What is only read takes the focus, so that the keyboard scrolls it. */}
          <ScrollArea className="min-h-0 grow" inside="px-4 pb-6" tabIndex={0} role="region" aria-label={title}>
            {children}
          </ScrollArea>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
