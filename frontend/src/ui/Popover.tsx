import { Popover as Radix } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";
import { ScrollArea } from "./ScrollArea";

interface Props extends Pick<ComponentProps<typeof Radix.Content>, "side" | "align" | "sideOffset"> {
  trigger: ReactNode;
  label: string;
  /** Utilities that give it its size. */
  className?: string;
  /** It scrolls when it would be higher than this. */
  upTo?: `max-h-${string}`;
  children: ReactNode;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
}

/** A small sheet beside what opened it. */
export function Popover({ trigger, label, className = "", upTo, children, open, onOpenChange, ...place }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          aria-label={label}
          collisionPadding={8}
          className={`z-10 rounded-sheet border border-rule-firm bg-paper ${upTo ? "" : "p-3"} ${className}`}
          {...place}
        >
          {upTo ? (
            <ScrollArea upTo={upTo} inside="p-3">
              {children}
            </ScrollArea>
          ) : (
            children
          )}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
