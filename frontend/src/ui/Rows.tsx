/** How controls stand beside each other. */
import type { ReactNode } from "react";

/** Fields side by side. */
export function Columns({ of = 2, children }: { of?: 2 | 3; children: ReactNode }) {
  return <div className={`grid gap-x-4 gap-y-0.5 ${of === 2 ? "grid-cols-2" : "grid-cols-3"}`}>{children}</div>;
}

/** Small acts in a row. */
export function Actions({ children }: { children: ReactNode }) {
  return <div className="flex flex-wrap gap-3 py-1.5">{children}</div>;
}

/** Tick boxes in a row, or one under another. */
export function Ticks({ stacked, children }: { stacked?: boolean; children: ReactNode }) {
  return <div className={stacked ? "grid gap-1.5 pt-1.5" : "flex flex-wrap gap-x-4"}>{children}</div>;
}
