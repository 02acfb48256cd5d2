/** Keys of the whole screen, in one place. Digits open stations; Ctrl+Z and Ctrl+Shift+Z step through the history. */
import { useEffect } from "react";
import { useLive } from "./live/store";
import { STATIONS, type Station } from "./stations/stations";

export function useKeys(open: (station: Station) => void) {
  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      const typing = target.matches("input, textarea, [contenteditable]");
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !target.matches("textarea")) {
        event.preventDefault();
        if (typing) target.blur();
        useLive.getState().step(event.shiftKey ? "redo" : "undo");
        return;
      }
      if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
      const station = STATIONS[Number(event.key) - 1];
      if (station) open(station.id);
    }
    window.addEventListener("keydown", onKeyDown);
    return () => window.removeEventListener("keydown", onKeyDown);
  }, [open]);
}
