import { Collapsible } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  title: string;
  /** What the group says while it is folded. */
  summary: string;
  /** What the group is for, in the trade's words; told when it is open. */
  help?: string;
  children: ReactNode;
}

/** A less-used group: one line with its summary until it is opened. */
export function Fold({ title, summary, help, children }: Props) {
  return (
    <Collapsible.Root className="fold">
      <Collapsible.Trigger className="fold-head">
        <span>{title}</span>
        <b>{summary}</b>
        <svg viewBox="0 0 10 6" width="9" aria-hidden="true">
          <path d="M1 1l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </Collapsible.Trigger>
      <Collapsible.Content className="fold-body">
        {help && <p className="aside">{help}</p>}
        {children}
      </Collapsible.Content>
    </Collapsible.Root>
  );
}
