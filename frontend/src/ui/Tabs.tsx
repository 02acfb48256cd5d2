/** One of several panels, opened by its tab. Tab list and panel may stand apart on the screen. */
import { Tabs as Radix } from "radix-ui";
import type { ComponentProps } from "react";

interface Props<T extends string> extends Omit<ComponentProps<"div">, "dir" | "defaultValue"> {
  value: T;
  onOpen: (value: T) => void;
}

/** What holds both the tabs and their panel. */
export function Tabs<T extends string>({ value, onOpen, ...more }: Props<T>) {
  return <Radix.Root value={value} onValueChange={(next) => onOpen(next as T)} {...more} />;
}

export const TabList = Radix.List;
export const Tab = Radix.Trigger;

/** The panel of the open tab. Its controls take the focus, not the panel. */
export function TabPanel(props: ComponentProps<typeof Radix.Content>) {
  return <Radix.Content tabIndex={-1} {...props} />;
}
