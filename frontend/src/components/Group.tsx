import type { ReactNode } from "react";
import { liveNow, useBlock, useLive } from "../live/store";
import { Help } from "./Help";

interface GroupProps {
  title: string;
  /** What the group is for, in the trade's words; told when asked. */
  help?: string;
  actions?: ReactNode;
  children: ReactNode;
}

/** A titled group of controls in the panel, with actions at the right of its title. */
export function Group({ title, help, actions, children }: GroupProps) {
  return (
    <section className="group" aria-label={title}>
      <header>
        <h3>{title}</h3>
        {help && <Help about={title}>{help}</Help>}
        {actions}
      </header>
      {children}
    </section>
  );
}

/** Quiet advice where it applies, with the one act that helps. */
export function Advice({ station }: { station: string }) {
  const entries = useLive((live) => live.piece?.drawings.advice);
  const edit = liveNow().edit;
  const { index } = useBlock();
  return entries
    ?.filter((entry) => entry.station === station && entry.block === index)
    .map(({ text, act }) => (
      <p key={text} className="advice">
        {text}{" "}
        {act && (
          <button type="button" className="text-action" onClick={() => edit(act.edits)}>
            {act.label}
          </button>
        )}
      </p>
    ));
}
