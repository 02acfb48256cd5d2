import type { ReactNode } from "react";
import { Help } from "./Help";
import { SectionTitle } from "./SectionTitle";

interface Props {
  title: string;
  /** What the section is for; shown when asked. */
  help?: string;
  actions?: ReactNode;
  children: ReactNode;
}

/** A titled section of a panel, with actions at the right of its title. */
export function Section({ title, help, actions, children }: Props) {
  return (
    <section aria-label={title} className="mt-3 border-t border-rule pt-3 pb-1">
      <header className="mb-1 flex min-h-6 flex-wrap items-center justify-between">
        <SectionTitle>{title}</SectionTitle>
        {help && <Help about={title}>{help}</Help>}
        {actions}
      </header>
      {children}
    </section>
  );
}
