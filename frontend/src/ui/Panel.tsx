import type { ReactNode } from "react";
import { PanelEdge } from "./PanelEdge";
import { ScrollArea } from "./ScrollArea";

interface Props {
  title: string;
  /** What stands at the right of the title. */
  actions?: ReactNode;
  width: number;
  least: number;
  most: number;
  onWidth: (width: number, done: boolean) => void;
  children: ReactNode;
}

/** A column of controls at the right of the screen, as wide as its edge was dragged to. */
export function Panel({ title, actions, children, ...edge }: Props) {
  return (
    <aside className="relative min-h-0 border-l border-rule max-[820px]:border-l-0" aria-label={title}>
      <PanelEdge label="Width of the panel" {...edge} />
      <ScrollArea data-part="panel" className="h-full max-[820px]:h-auto" inside="px-4 pt-3 pb-6">
        <header className="flex items-baseline justify-between gap-3">
          <h2 className="mb-2 text-title font-[650]">{title}</h2>
          {actions}
        </header>
        {children}
      </ScrollArea>
    </aside>
  );
}
