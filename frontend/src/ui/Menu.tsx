import { ContextMenu as RadixContext, DropdownMenu as RadixDropdown } from "radix-ui";
import { createContext, type ReactNode, use } from "react";
import { Kbd } from "./Kbd";

const CONTENT =
  "z-30 max-h-(--radix-popper-available-height) min-w-48 overflow-y-auto rounded-sheet border border-rule-firm bg-paper py-1 [scrollbar-width:thin]";
const ITEM =
  "flex cursor-default items-center justify-between gap-6 px-3 py-1.5 text-body outline-none data-disabled:text-ink-3 data-disabled:opacity-60 data-highlighted:bg-verdigris-wash data-[state=checked]:font-bold data-[state=checked]:shadow-[inset_3px_0_0_var(--color-verdigris)] pointer-coarse:min-h-11";

/** Items stand in either kind of menu; Radix has a set of parts for each. */
const Parts = createContext<typeof RadixDropdown | typeof RadixContext>(RadixDropdown);

interface MenuProps {
  trigger: ReactNode;
  children: ReactNode;
  onOpen?: () => void;
}

/** A menu that a button opens. */
export function Menu({ trigger, children, align = "start" }: MenuProps & { align?: "start" | "end" }) {
  return (
    <RadixDropdown.Root>
      <RadixDropdown.Trigger asChild>{trigger}</RadixDropdown.Trigger>
      <RadixDropdown.Portal>
        <RadixDropdown.Content className={CONTENT} align={align} sideOffset={4} collisionPadding={8}>
          {children}
        </RadixDropdown.Content>
      </RadixDropdown.Portal>
    </RadixDropdown.Root>
  );
}

/** A menu for what lies under the pointer; `onOpen` picks it. */
export function ContextMenu({ trigger, children, onOpen }: MenuProps) {
  return (
    <RadixContext.Root onOpenChange={(open) => open && onOpen?.()}>
      <RadixContext.Trigger asChild>{trigger}</RadixContext.Trigger>
      <RadixContext.Portal>
        <RadixContext.Content className={CONTENT} collisionPadding={8}>
          <Parts value={RadixContext}>{children}</Parts>
        </RadixContext.Content>
      </RadixContext.Portal>
    </RadixContext.Root>
  );
}

interface ItemProps {
  children: ReactNode;
  keys?: string;
  disabled?: boolean;
  onSelect: () => void;
}

export function MenuItem({ children, keys, disabled, onSelect }: ItemProps) {
  const { Item } = use(Parts);
  return (
    <Item className={ITEM} disabled={disabled} onSelect={onSelect}>
      <span>{children}</span>
      {keys && <Kbd>{keys}</Kbd>}
    </Item>
  );
}

interface ChoiceProps {
  value: string;
  onChoose: (value: string) => void;
  options: readonly { value: string; show: ReactNode }[];
}

/** Items of which one is chosen. */
export function MenuChoice({ value, onChoose, options }: ChoiceProps) {
  const { RadioGroup, RadioItem } = use(Parts);
  return (
    <RadioGroup value={value} onValueChange={onChoose}>
      {options.map((option) => (
        <RadioItem key={option.value} value={option.value} className={ITEM}>
          {option.show}
        </RadioItem>
      ))}
    </RadioGroup>
  );
}

export function MenuRule() {
  const { Separator } = use(Parts);
  return <Separator className="my-1 border-t border-rule" />;
}
