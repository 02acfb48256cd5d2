import { ChevronDown } from "lucide-react";
import { Collapsible } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Help } from "./Help";
import { Remark } from "./Notes";
import { SectionTitle } from "./SectionTitle";

interface Props {
  title: string;
  /** What the section is for. */
  help?: string;
  children: ReactNode;
}

/** A titled section of a panel, with actions at the right of its title; its help is shown when asked. */
export function Section({ title, help, actions, children }: Props & { actions?: ReactNode }) {
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

/**
 * A section that is less used: one line with its summary until it is opened, its help on top when it is. It
 * remembers for the session whether it was open.
 */
export function FoldingSection({ title, help, summary, children }: Props & { summary: string }) {
  const key = `fold ${title}`;
  const [open, setOpen] = useState(sessionStorage.getItem(key) === "open");
  return (
    <Collapsible.Root
      className="border-t border-rule"
      open={open}
      onOpenChange={(next) => {
        sessionStorage.setItem(key, next ? "open" : "folded");
        setOpen(next);
      }}
    >
      <Collapsible.Trigger data-part="fold" className="group/fold flex w-full items-center gap-2 py-2 text-left text-body">
        <span>{title}</span>
        <b className="ml-auto text-small">{summary}</b>
        <ChevronDown size={14} className="shrink-0 group-data-[state=open]/fold:rotate-180" aria-hidden="true" />
      </Collapsible.Trigger>
      <Collapsible.Content className="pb-2.5">
        {help && <Remark>{help}</Remark>}
        {children}
      </Collapsible.Content>
    </Collapsible.Root>
  );
}
