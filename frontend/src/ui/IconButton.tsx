import type { LucideIcon } from "lucide-react";
import type { ComponentProps } from "react";
import { Tooltip } from "./Tooltip";

interface Props extends Omit<ComponentProps<"button">, "children"> {
  icon: LucideIcon;
  /** What it does: its name for a screen reader, and what its tooltip says. */
  label: string;
  keys?: string;
}

/** A button that shows a sign only. */
export function IconButton({ icon: Icon, label, keys, ...more }: Props) {
  return (
    <Tooltip says={label} keys={keys}>
      <button
        type="button"
        aria-label={label}
        className="grid h-7 w-8 place-items-center rounded-sheet not-disabled:hover:bg-paper-recess disabled:text-rule-firm pointer-coarse:size-11"
        {...more}
      >
        <Icon size={17} strokeWidth={1.8} aria-hidden="true" />
      </button>
    </Tooltip>
  );
}
