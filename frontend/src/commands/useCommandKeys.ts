/** The keys of all commands, for the whole screen. */
import { useEffect } from "react";
import { type Command, contextNow, isPressed } from "./command";
import { COMMANDS } from "./registry";

const TYPING = "input:not([type=checkbox]):not([type=range]), textarea, select, [contenteditable]";

function isMeant(command: Command, event: KeyboardEvent): boolean {
  if (!command.keys || !isPressed(command.keys, event)) return false;
  const target = event.target as HTMLElement;
  if (command.keysAt) return target.matches(command.keysAt);
  // What is typed into several lines has an undo of its own.
  return command.whileTyping ? !target.matches("textarea") : !target.matches(TYPING);
}

export function useCommandKeys() {
  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      // A key that a dialog, a menu or a tool has taken is not the screen's.
      if (event.defaultPrevented) return;
      const command = COMMANDS.find((entry) => isMeant(entry, event));
      const context = command && contextNow();
      if (!command || !context || (command.when && !command.when(context))) return;
      // Marked text is what is meant to be copied.
      if (event.ctrlKey && String(window.getSelection()) && !command.whileTyping) return;
      event.preventDefault();
      const target = event.target as HTMLElement;
      if (target.matches(TYPING)) target.blur();
      command.run(context);
    }
    window.addEventListener("keydown", onKeyDown);
    return () => window.removeEventListener("keydown", onKeyDown);
  }, []);
}
