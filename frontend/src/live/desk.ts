/** What lies on the desk: which station and block are open, and the tool in hand. Of this window only, never of the piece. */
import { create } from "zustand";
import type { Station } from "../stations/stations";

/** The line being drawn: `kerf` draws a cut, `pen` a stroke point by point, `freehand` a stroke in one go. */
export type Line = "kerf" | "pen" | "freehand";
/** `highlight` waits for the spot where the picked lamp shall shine. */
export type InHand = Line | "highlight";

interface Desk {
  station: Station;
  block: number;
  /** Which of the piece's lamps is picked, by its place in the list. */
  lamp: number;
  tool: InHand | null;
  openStation: (station: Station) => void;
  openBlock: (block: number) => void;
  pickLamp: (lamp: number) => void;
  take: (tool: InHand | null) => void;
}

export const useDesk = create<Desk>((set) => ({
  station: "set",
  block: 0,
  lamp: 0,
  tool: null,
  openStation: (station) => set({ station, tool: null }),
  openBlock: (block) => set({ block, tool: null }),
  pickLamp: (lamp) => set({ lamp }),
  take: (tool) => set({ tool }),
}));
