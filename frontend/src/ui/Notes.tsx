/** Small text beside controls: what something means, what is wrong, what would be better. */
import type { ReactNode } from "react";

/** What a control means, in a line of its own. */
export function Hint({ children }: { children: ReactNode }) {
  return <p className="my-1.5 text-small text-ink-3">{children}</p>;
}

/** A remark within or beside something else. */
export function Remark({ children }: { children: ReactNode }) {
  return <span className="block text-small text-ink-3">{children}</span>;
}

/** Why an entry was refused. */
export function Fault({ id, children }: { id?: string; children: ReactNode }) {
  return (
    <p id={id} data-part="fault" role="alert" className="col-span-full pt-[3px] text-small text-madder">
      {children}
    </p>
  );
}

/** Something that would look better another way. */
export function Notice({ children }: { children: ReactNode }) {
  return (
    <p data-part="advice" className="my-2 border-l-3 border-madder pl-[9px] text-small text-ink-2">
      {children}
    </p>
  );
}
