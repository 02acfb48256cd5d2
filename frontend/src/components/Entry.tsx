import type { ReactNode } from "react";

interface Props {
  title: string;
  /** How many points or the like, after the title. */
  measure?: string;
  onRemove?: () => void;
  children: ReactNode;
}

/** One of several alike in a group: a plate, a kerf, a point of a run, a stroke. */
export function Entry({ title, measure, onRemove, children }: Props) {
  return (
    <section className="sub" aria-label={title}>
      <header>
        <h4>
          {title} {measure && <small>{measure}</small>}
        </h4>
        {onRemove && (
          <button type="button" className="text-action" onClick={onRemove}>
            Remove
          </button>
        )}
      </header>
      {children}
    </section>
  );
}
