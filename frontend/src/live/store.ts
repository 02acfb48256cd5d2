/**
 * The open piece: its state as the server tells it, the newest frame, and the way to send edits.
 * The server is asked before anything is shown as changed.
 */
import { replaceEqualDeep } from "@tanstack/react-query";
import { create } from "zustand";
import type { Block, Edit, FrameHeader, PieceState, ServerMessage } from "../api/client";
import { type Change, Connection, type View } from "../connection/Connection";
import { WHOLE } from "../stage/part";
import { toast } from "../ui/Toasts";
import { useDesk } from "./desk";

export interface Frame extends FrameHeader {
  bitmap: ImageBitmap;
}

interface Options {
  gesture?: string;
  moving?: boolean;
}

interface Live {
  /** The id of the open piece, and its state once it has come. */
  id: string;
  piece: PieceState | null;
  frame: Frame | null;
  connected: boolean;
  /** How much of the renderer is compiled, as a share, while the piece waits for it. */
  prepared: number | null;
  /** When a picture will be final, as the page's clock goes (ms). */
  outlook: { revision: number; at: number } | null;
  /** What is wrong with an entry, by the pointer of its field. */
  faults: Record<string, string>;
  /** Why there is no picture; the next picture takes it back. */
  notice: string;
  /** Why the last act was refused; the next act takes it back. */
  refusal: string;
  open: (id: string) => void;
  edit: (edits: Edit[], options?: Options) => void;
  rest: () => void;
  step: (direction: "undo" | "redo") => void;
  look: (view: View) => void;
  /** Runs an act on the document as it is after all that this window has sent. */
  afterAll: (act: () => void) => void;
  forget: (path: string) => void;
}

/** Whether a change takes something away, which a hand may not have meant. */
const removes = (change: Change) => change.edits?.some((edit) => edit.op === "remove") ?? false;
/** Whether an edit has no field of its own that could say what is wrong with it. */
const isOfTheStage = (edit: Edit) => edit.op === "highlight";
const pathsOf = (changes: Change[]) => changes.flatMap((change) => change.edits?.map((edit) => edit.path) ?? []);

function without(faults: Record<string, string>, paths: string[]): Record<string, string> {
  return Object.fromEntries(Object.entries(faults).filter(([path]) => !paths.includes(path)));
}

export const useLive = create<Live>((set, get) => {
  function heard(message: ServerMessage, acknowledged: Change[]) {
    if (message.type === "state") {
      if (message.id !== get().id) return;
      // What did not change stays the same object, so that only those fields are drawn anew whose values did.
      set({ piece: replaceEqualDeep(get().piece, message), faults: without(get().faults, pathsOf(acknowledged)) });
      // A refusal may arrive after the change that made it good was sent.
      if (acknowledged.length) set({ refusal: "" });
      document.title = `${message.document.name} · Halvex`;
      if (acknowledged.some(removes)) toast(message.undo ?? "Removed", { name: "Undo", run: () => get().step("undo") });
    } else if (message.type === "error") {
      const paths = pathsOf(acknowledged.slice(-1));
      const { detail, field } = message.problem;
      const at = paths.length ? paths : [field ?? ""];
      set({ faults: { ...get().faults, ...Object.fromEntries(at.map((path) => [path, detail])) } });
      if (!paths.length || acknowledged.at(-1)?.edits?.some(isOfTheStage)) set({ refusal: detail });
    } else if (message.type === "preparing") {
      set({ prepared: message.share });
    } else if (message.type === "outlook") {
      set({ outlook: { revision: message.revision, at: performance.now() + 1000 * message.seconds } });
    } else if (message.type === "problem") {
      set({ notice: message.detail });
    }
  }

  const connection = new Connection({
    connected: (connected) => set({ connected }),
    heard,
    seen(header, bitmap) {
      const before = get().frame;
      const prepared = header.stage === "draft" ? get().prepared : null;
      set({ frame: { ...header, bitmap }, prepared, notice: "" });
      before?.bitmap.close();
    },
  });

  return {
    id: "",
    piece: null,
    frame: null,
    connected: false,
    prepared: null,
    outlook: null,
    faults: {},
    notice: "",
    refusal: "",
    open(id) {
      if (id === get().id) return;
      set({ id, faults: {}, notice: "", refusal: "" });
      useDesk.getState().look(WHOLE);
      connection.show(id);
    },
    edit(edits, { gesture, moving = false } = {}) {
      if (get().refusal) set({ refusal: "" });
      connection.change({ type: "edit", piece: get().id, edits, gesture: gesture ?? null, moving });
    },
    rest: () => connection.rest(),
    step: (direction) => connection.change({ type: direction, piece: get().id }),
    look: (view) => connection.look(view),
    afterAll: (act) => connection.afterAll(act),
    forget: (path) => set({ faults: without(get().faults, [path]) }),
  };
});

/** The state as it is now and the acts on it, for what answers the hand; a screen that shows it uses `useLive`. */
export const liveNow = useLive.getState;
export const onLive = useLive.subscribe;

let gestures = 0;
/** A name for one gesture: its edits are one step of history. */
export function newGesture(): string {
  gestures += 1;
  return `${Date.now().toString(36)}-${gestures}`;
}

/** The block that the stations show, and the path of it in the document; only for components that are shown once there is one. */
export function useBlock(): { block: Block; path: string; index: number } {
  const blocks = useDocument().blocks;
  const index = Math.min(
    useDesk((desk) => desk.block),
    blocks.length - 1,
  );
  // A piece has one block at least.
  return { block: blocks[index] as Block, path: `/blocks/${index}`, index };
}

/** The open document; only for components that are shown once there is one. */
export function useDocument(): PieceState["document"] {
  return useLive((live) => (live.piece as PieceState).document);
}
