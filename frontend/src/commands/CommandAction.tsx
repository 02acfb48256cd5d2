import type { ReactNode } from "react";
import { TextAction } from "../ui/TextAction";
import { contextNow } from "./command";
import { commandOf } from "./registry";

/** A command as a word that is clicked. */
export function CommandAction({ id, children }: { id: string; children: ReactNode }) {
  function run() {
    const context = contextNow();
    if (context) commandOf(id).run(context);
  }
  return <TextAction onClick={run}>{children}</TextAction>;
}
