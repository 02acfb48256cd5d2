/** What lies on the desk: which station and block are open, and the tool in hand. Of this window only, never of the piece. */
import { create } from "zustand";
import type { Station } from "../stations/stations";

/** The line being drawn: `kerf` draws a cut, `pen` a stroke point by point, `freehand` a stroke in one go. */
export type Line = "kerf" | "pen" | "freehand";

interface Desk {
  station: Station;
  block: number;
  tool: Line | null;
  openStation: (station: Station) => void;
  openBlock: (block: number) => void;
  take: (tool: Line | null) => void;
}

export const useDesk = create<Desk>((set) => ({
  station: "set",
  block: 0,
  tool: null,
  openStation: (station) => set({ station, tool: null }),
  openBlock: (block) => set({ block, tool: null }),
  take: (tool) => set({ tool }),
}));
