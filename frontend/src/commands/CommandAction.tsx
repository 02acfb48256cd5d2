import type { ReactNode } from "react";
import { contextNow } from "./command";
import { commandOf } from "./registry";

/** A command as a word that is clicked. */
export function CommandAction({ id, children }: { id: string; children: ReactNode }) {
  function run() {
    const context = contextNow();
    if (context) commandOf(id).run(context);
  }
  return (
    <button type="button" className="text-action" onClick={run}>
      {children}
    </button>
  );
}
