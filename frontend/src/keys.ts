/** Keys of the whole screen, in one place; commands.ts lists them for people. */
import { useEffect } from "react";
import { copyBlocks, duplicateBlocks, pasteBlocks, pasteLook, removeBlocks } from "./components/acts";
import { deskNow } from "./live/desk";
import { liveNow } from "./live/store";
import { STATIONS, type Station } from "./stations/stations";

/** With Ctrl or Cmd, while nothing is typed and no text is marked. */
const WITH_CTRL: Record<string, (event: KeyboardEvent) => void> = {
  c: copyBlocks,
  d: duplicateBlocks,
  v: (event) => (event.shiftKey ? pasteLook() : pasteBlocks()),
};

export function useKeys(open: (station: Station) => void) {
  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      const typing = target.matches("input:not([type=checkbox]), textarea, select, [contenteditable]");
      const ctrl = event.ctrlKey || event.metaKey;
      const desk = deskNow();
      if (ctrl && event.key.toLowerCase() === "z" && !target.matches("textarea")) {
        event.preventDefault();
        if (typing) target.blur();
        liveNow().step(event.shiftKey ? "redo" : "undo");
        return;
      }
      if (event.key === "F2") {
        event.preventDefault();
        desk.openSheet("commands");
        return;
      }
      if (typing || event.altKey) return;
      if (ctrl) {
        const act = WITH_CTRL[event.key.toLowerCase()];
        if (!act || String(window.getSelection())) return;
        event.preventDefault();
        act(event);
        return;
      }
      if (event.key === "?") desk.openSheet("keys");
      else if (event.key === "g") desk.showGuides(!desk.guides);
      else if (event.key === "r") desk.showRulers(!desk.rulers);
      else if (event.key === "Escape" && desk.tool) desk.take(null);
      else if (event.key === "Delete" && target.matches(".block-frame")) removeBlocks();
      else {
        const station = STATIONS[Number(event.key) - 1];
        if (station) open(station.id);
      }
    }
    window.addEventListener("keydown", onKeyDown);
    return () => window.removeEventListener("keydown", onKeyDown);
  }, [open]);
}
