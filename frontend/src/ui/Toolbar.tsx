/** Buttons in a row that are one stop of the Tab key: arrows go from one to the next. */
import { Toolbar as Radix } from "radix-ui";
import type { ComponentProps, ReactElement, ReactNode } from "react";

export function Toolbar({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Radix.Root aria-label={label} className="flex items-center gap-4">
      {children}
    </Radix.Root>
  );
}

/** A button of the row; one that is disabled is passed over. */
export function ToolbarItem({ children, ...more }: ComponentProps<typeof Radix.Button> & { children: ReactElement }) {
  return (
    <Radix.Button asChild {...more}>
      {children}
    </Radix.Button>
  );
}
