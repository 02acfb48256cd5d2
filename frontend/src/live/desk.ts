/** What lies on the desk: which station and block are open, and the tool in hand. Of this window only, never of the piece. */
import { create } from "zustand";
import { type Part, WHOLE } from "../stage/part";
import type { Station } from "../stations/stations";

/** The line being drawn: `kerf` draws a cut, `pen` a stroke point by point, `freehand` a stroke in one go, `along` what words follow. */
export type Line = "kerf" | "pen" | "freehand" | "along";
/** `highlight` waits for the spot where the picked lamp is to shine, `glint` for that of a star; `letters` moves single letters apart. */
type InHand = Line | "highlight" | "glint" | "letters";

/** Widths of the panel in px. */
export const PANEL = { least: 280, usual: 320, most: 520 };

interface Desk {
  station: Station;
  block: number;
  /** Blocks picked besides the open one, to be moved and arranged with it. */
  also: number[];
  /** Which letter of the open block is picked, by the number of its character. */
  letter: number;
  /** The point of a drawn line that is picked: the path of its line, its place in it, and whether it may be smooth. */
  point: { path: string; at: number; curved: boolean } | null;
  /** Which of the piece's lamps is picked, by its place in the list. */
  lamp: number;
  /** Which effect of the stack is picked. */
  effect: number;
  tool: InHand | null;
  /** Whether the next drawn stroke is drawn over the open block, which then becomes a guide. */
  tracing: boolean;
  /** Whether the picture alone is shown, without the panel and what stands around it. */
  alone: boolean;
  /** What of the canvas the stage shows, and how large it can show it, in px of the screen. */
  part: Part;
  stage: { width: number; height: number };
  /** Whether the picture is shown without its effects. */
  bare: boolean;
  guides: boolean;
  rulers: boolean;
  /** Width of the panel in px. */
  panel: number;
  /** Which list is open over the screen. */
  sheet: "commands" | "keys" | null;
  openStation: (station: Station) => void;
  openBlock: (block: number) => void;
  /** Picks a block besides the open one, or lets it go. */
  pickAlso: (block: number) => void;
  pickLetter: (letter: number) => void;
  pickPoint: (point: Desk["point"]) => void;
  pickLamp: (lamp: number) => void;
  pickEffect: (effect: number) => void;
  take: (tool: InHand | null) => void;
  trace: (on: boolean) => void;
  showAlone: (on: boolean) => void;
  look: (part: Part) => void;
  measure: (stage: Desk["stage"]) => void;
  showBare: (on: boolean) => void;
  /** Makes the panel so wide; `kept` for the next time too. */
  widen: (panel: number, kept: boolean) => void;
  showGuides: (on: boolean) => void;
  showRulers: (on: boolean) => void;
  openSheet: (sheet: Desk["sheet"]) => void;
}

export const useDesk = create<Desk>((set) => ({
  station: "set",
  block: 0,
  also: [],
  letter: 0,
  point: null,
  lamp: 0,
  effect: 0,
  tool: null,
  tracing: false,
  alone: false,
  part: WHOLE,
  stage: { width: 928, height: 522 },
  bare: false,
  panel: Math.min(Math.max(Number(localStorage.getItem("panel")) || PANEL.usual, PANEL.least), PANEL.most),
  guides: localStorage.getItem("guides") === "on",
  rulers: localStorage.getItem("rulers") === "on",
  sheet: null,
  openStation: (station) => set({ station, tool: null }),
  openBlock: (block) => set({ block, also: [], letter: 0, point: null, tool: null }),
  pickAlso: (block) =>
    set((desk) =>
      desk.also.includes(block) || desk.block === block
        ? { also: desk.also.filter((entry) => entry !== block) }
        : { also: [...desk.also, block] },
    ),
  pickLetter: (letter) => set({ letter }),
  pickPoint: (point) => set({ point }),
  pickLamp: (lamp) => set({ lamp }),
  pickEffect: (effect) => set({ effect }),
  take: (tool) => set((desk) => ({ tool, tracing: tool !== null && desk.tracing })),
  trace: (tracing) => set({ tracing }),
  showAlone: (alone) => set({ alone }),
  look: (part) => set({ part }),
  measure: (stage) => set({ stage }),
  showBare: (bare) => set({ bare }),
  widen: (panel, kept) => {
    if (kept) localStorage.setItem("panel", String(panel));
    set({ panel });
  },
  showGuides: (guides) => {
    localStorage.setItem("guides", guides ? "on" : "off");
    set({ guides });
  },
  showRulers: (rulers) => {
    localStorage.setItem("rulers", rulers ? "on" : "off");
    set({ rulers });
  },
  openSheet: (sheet) => set({ sheet }),
}));

/** The desk as it is now and the acts on it; a screen that shows it uses `useDesk`. */
export const deskNow = useDesk.getState;
export const onDesk = useDesk.subscribe;
