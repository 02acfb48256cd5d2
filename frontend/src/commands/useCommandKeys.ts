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

/** From so many milliseconds on a key counts as held. */
const HELD_MS = 350;

export function useCommandKeys() {
  useEffect(() => {
    let held: { command: Command; key: string; since: number } | null = null;

    function onKeyDown(event: KeyboardEvent) {
      if (held && event.repeat && event.key === held.key) {
        event.preventDefault();
        return;
      }
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
      held = command.held ? { command, key: event.key, since: event.timeStamp } : null;
    }

    function onKeyUp(event: KeyboardEvent) {
      if (event.key === held?.key) letGo(event.timeStamp);
    }

    function onBlur(event: FocusEvent) {
      letGo(event.timeStamp);
    }

    /** What a held key has done is run again, which takes it back. */
    function letGo(now: number) {
      const context = contextNow();
      if (held && context && now - held.since >= HELD_MS) held.command.run(context);
      held = null;
    }

    window.addEventListener("keydown", onKeyDown);
    window.addEventListener("keyup", onKeyUp);
    window.addEventListener("blur", onBlur);
    return () => {
      window.removeEventListener("keydown", onKeyDown);
      window.removeEventListener("keyup", onKeyUp);
      window.removeEventListener("blur", onBlur);
    };
  }, []);
}
