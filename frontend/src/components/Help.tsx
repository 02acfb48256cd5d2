import { Popover } from "radix-ui";
import type { ReactNode } from "react";

/** A question mark that explains a group of controls. */
export function Help({ about, children }: { about: string; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="help" aria-label={`About ${about.toLowerCase()}`}>
        ?
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="popover help-text" align="end" sideOffset={4}>
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
