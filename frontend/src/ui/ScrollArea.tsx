import { ScrollArea as Radix } from "radix-ui";
import type { ComponentProps } from "react";

interface Props extends ComponentProps<"div"> {
  /** Utilities that give it its place and size. */
  className?: string;
  /** Utilities of what is scrolled. */
  inside?: string;
  /** As high as what is in it, up to this utility's height. */
  upTo?: `max-h-${string}`;
}

/** Something longer than its place, with a bar that takes no room from it. */
export function ScrollArea({ className = "", inside = "", upTo, children, ...more }: Props) {
  return (
    <Radix.Root type="auto" className={`relative flex flex-col overflow-hidden ${className}`}>
      {/* Radix lays its content out as a table, which grows with its widest word. */}
      <Radix.Viewport className={`min-h-0 w-full grow [&>div]:block! ${upTo ?? ""}`} {...more}>
        <div className={inside}>{children}</div>
      </Radix.Viewport>
      <Radix.Scrollbar orientation="vertical" className="flex w-2 touch-none p-px select-none">
        <Radix.Thumb className="relative grow rounded-full bg-rule-firm/60 hover:bg-rule-firm" />
      </Radix.Scrollbar>
    </Radix.Root>
  );
}
