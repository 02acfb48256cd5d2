import { Popover as Radix } from "radix-ui";
import type { ComponentProps, ReactNode } from "react";

interface Props extends Pick<ComponentProps<typeof Radix.Content>, "side" | "align" | "sideOffset"> {
  trigger: ReactNode;
  label: string;
  /** Utilities that give it its size. */
  className?: string;
  children: ReactNode;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
}

/** A small sheet beside what opened it. */
export function Popover({ trigger, label, className = "", children, open, onOpenChange, ...place }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          aria-label={label}
          collisionPadding={8}
          className={`z-10 rounded-sheet border border-rule-firm bg-paper p-3 ${className}`}
          {...place}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
