import type { ReactNode } from "react";
import { TextAction } from "./TextAction";

interface Props {
  title: string;
  /** How many points or the like, after the title. */
  measure?: string;
  onRemove?: () => void;
  children: ReactNode;
}

/** One of several alike in a section: a plate, a cut, a point of a run, a stroke. */
export function Entry({ title, measure, onRemove, children }: Props) {
  return (
    <section aria-label={title} className="mb-2 border-b border-rule pt-0.5 pb-2">
      <header className="flex items-baseline justify-between pt-1 pb-0.5">
        <h4 className="text-small font-semibold">
          {title} {measure && <small className="font-normal text-ink-3">{measure}</small>}
        </h4>
        {onRemove && <TextAction onClick={onRemove}>Remove</TextAction>}
      </header>
      {children}
    </section>
  );
}
