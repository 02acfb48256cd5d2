import { Tooltip as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { Kbd } from "./Kbd";

interface Props {
  says: string;
  keys?: string;
  children: ReactNode;
}

/** Says what the control under the pointer, or with the focus, does, and its keys. */
export function Tooltip({ says, keys, children }: Props) {
  return (
    <Radix.Root>
      <Radix.Trigger asChild>{children}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          sideOffset={6}
          collisionPadding={8}
          className="z-30 flex max-w-70 items-center gap-2 rounded-sheet border border-rule-firm bg-paper px-2 py-1 text-small text-ink"
        >
          {says}
          {keys && <Kbd>{keys}</Kbd>}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

export const TooltipProvider = Radix.Provider;
