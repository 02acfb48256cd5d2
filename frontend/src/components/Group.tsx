import type { ReactNode } from "react";
import { useLive } from "../live/store";

/** A titled group of controls in the panel, with actions at the right of its title. */
export function Group({ title, actions, children }: { title: string; actions?: ReactNode; children: ReactNode }) {
  return (
    <section className="group" aria-label={title}>
      <header>
        <h3>{title}</h3>
        {actions}
      </header>
      {children}
    </section>
  );
}

/** Quiet advice where it applies. */
export function Advice({ station }: { station: string }) {
  const entries = useLive((live) => live.piece?.drawings.advice ?? []);
  return entries
    .filter((entry) => entry.station === station)
    .map((entry) => (
      <p key={entry.text} className="advice">
        {entry.text}
      </p>
    ));
}
