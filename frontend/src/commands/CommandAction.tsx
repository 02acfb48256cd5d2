import type { ReactNode } from "react";
import { TextAction } from "../ui/TextAction";
import { runCommand } from "./registry";

/** A command as a word that is clicked. */
export function CommandAction({ id, children }: { id: string; children: ReactNode }) {
  return <TextAction onClick={() => runCommand(id)}>{children}</TextAction>;
}
