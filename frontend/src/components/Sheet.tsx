import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { deskNow, useDesk } from "../live/desk";

interface Props {
  /** Which of the desk's sheets this is. */
  name: "commands" | "keys";
  title: string;
  children: ReactNode;
}

/** A sheet over the whole screen. Escape closes it and gives the focus back. */
export function Sheet({ name, title, children }: Props) {
  const open = useDesk((desk) => desk.sheet === name);
  const openSheet = deskNow().openSheet;
  return (
    <Dialog.Root open={open} onOpenChange={(shown) => openSheet(shown ? name : null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className={`sheet ${name}-sheet`} aria-describedby={undefined}>
          <Dialog.Title>{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
