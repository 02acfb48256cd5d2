import { ChevronDown } from "lucide-react";
import { Collapsible } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Remark } from "./Notes";

interface Props {
  title: string;
  /** What the section says while it is folded. */
  summary: string;
  /** What the section is for; shown when it is open. */
  help?: string;
  children: ReactNode;
}

/** A less-used section: one line with its summary until it is opened. It remembers for the session whether it was. */
export function Fold({ title, summary, help, children }: Props) {
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
