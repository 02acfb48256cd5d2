/**
 * The open piece: its state as the server tells it, the newest frame, and the way to send edits.
 * The server is asked before anything is shown as changed; while the hand moves, only the newest edit waits.
 */
import { replaceEqualDeep } from "@tanstack/react-query";
import { create } from "zustand";
import {
  api,
  type Block,
  type Edit,
  type FrameHeader,
  type PieceState,
  type ServerMessage,
  told,
  type WindowMessage,
} from "../api/client";
import { useDesk } from "./desk";

export interface Frame extends FrameHeader {
  bitmap: ImageBitmap;
}

interface Options {
  gesture?: string;
  moving?: boolean;
}

interface Live {
  piece: PieceState | null;
  frame: Frame | null;
  connected: boolean;
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
  resize: (width: number, height: number) => void;
  placeHighlight: (lamp: string, x: number, y: number) => Promise<void>;
  forget: (path: string) => void;
}

const RETRY_MS = 800;

let socket: WebSocket | null = null;
let seq = 0;
let answered = 0;
let pieceId = "";
let size = { width: 928, height: 522 };
/** Edits of a piece: it may no longer be the open one when they are sent. */
interface Waiting {
  piece: string;
  edits: Edit[];
  options: Options;
}
let waiting: Waiting | null = null;
/** Edits made while the server could not be reached; they are sent when it is back. */
let unsent: Waiting[] = [];
/** Acts that wait until this window has heard of what it sent before. */
const held: (() => void)[] = [];
const pathsOf = new Map<number, string[]>();

export const useLive = create<Live>((set, get) => {
  function send(message: WindowMessage): boolean {
    if (socket?.readyState !== WebSocket.OPEN) return false;
    seq += 1;
    socket.send(JSON.stringify({ ...message, seq }));
    return true;
  }

  function sendEdits({ piece, edits, options }: Waiting) {
    if (send({ type: "edit", piece, edits, gesture: options.gesture ?? null, moving: options.moving ?? false })) {
      pathsOf.set(
        seq,
        edits.map((edit) => edit.path),
      );
    } else {
      unsent.push({ piece, edits, options });
    }
  }

  function answer(to: number) {
    answered = Math.max(answered, to);
    if (waiting && answered >= seq) {
      const next = waiting;
      waiting = null;
      sendEdits(next);
    }
    while (held.length && answered >= seq) held.shift()?.();
  }

  async function receive(data: ArrayBuffer | string) {
    if (typeof data !== "string") {
      const length = new DataView(data).getUint32(0);
      const header: FrameHeader = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length)));
      const bitmap = await createImageBitmap(new Blob([new Uint8Array(data, 4 + length)], { type: header.media }));
      const current = get().frame;
      if (current && (header.revision < current.revision || header.seq < current.seq) && pieceId === get().piece?.id) {
        if (header.seq < current.seq && header.seq !== 0) return;
      }
      set({ frame: { ...header, bitmap }, notice: "" });
      return;
    }
    const message: ServerMessage = JSON.parse(data);
    if (message.type === "state") {
      const paths = pathsOf.get(message.seq) ?? [];
      pathsOf.delete(message.seq);
      const faults = { ...get().faults };
      for (const path of paths) delete faults[path];
      // What did not change stays the same object, so that only those fields are drawn anew whose values did.
      set({ piece: replaceEqualDeep(get().piece, message), faults });
      document.title = `${message.document.name} · Halvex`;
      answer(message.seq);
    } else if (message.type === "error") {
      const { problem } = message;
      const paths = pathsOf.get(message.seq) ?? [];
      pathsOf.delete(message.seq);
      const at = paths.length ? paths : [problem.field ?? ""];
      set({ faults: { ...get().faults, ...Object.fromEntries(at.map((path) => [path, problem.detail])) } });
      if (!paths.length) set({ refusal: problem.detail });
      answer(message.seq);
    } else if (message.type === "stored") {
      answer(message.seq);
    } else if (message.type === "problem") {
      set({ notice: message.detail });
    }
  }

  function connect() {
    const mine = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/live`);
    mine.binaryType = "arraybuffer";
    mine.onopen = () => {
      set({ connected: true });
      send({ type: "open", piece: pieceId, ...size });
      const held = unsent;
      unsent = [];
      for (const entry of held) sendEdits(entry);
    };
    mine.onmessage = (event) => void receive(event.data);
    mine.onclose = () => {
      if (socket !== mine) return;
      set({ connected: false });
      answer(seq);
      setTimeout(connect, RETRY_MS);
    };
    socket = mine;
  }

  return {
    piece: null,
    frame: null,
    connected: false,
    faults: {},
    notice: "",
    refusal: "",
    open(id) {
      if (id === pieceId) return;
      pieceId = id;
      set({ faults: {}, notice: "", refusal: "" });
      if (!socket) connect();
      else send({ type: "open", piece: id, ...size });
    },
    edit(edits, options = {}) {
      if (get().refusal) set({ refusal: "" });
      // While the hand moves, an edit waits for the answer to the one before; a newer one takes its place.
      const entry = { piece: pieceId, edits, options };
      if (options.moving && answered < seq) waiting = entry;
      else {
        waiting = null;
        sendEdits(entry);
      }
    },
    rest() {
      if (waiting) {
        sendEdits({ ...waiting, options: { ...waiting.options, moving: false } });
        waiting = null;
      } else send({ type: "rest" });
    },
    step(direction) {
      send({ type: direction });
    },
    resize(width, height) {
      if (width === size.width && height === size.height) return;
      size = { width, height };
      if (pieceId) send({ type: "size", ...size });
    },
    async placeHighlight(lamp, x, y) {
      try {
        // The new state comes over the socket, to this window as to any other.
        await api.highlight(pieceId, { lamp, x, y });
        set({ refusal: "" });
      } catch (fault) {
        set({ refusal: told(fault) });
      }
    },
    forget(path) {
      const faults = { ...get().faults };
      delete faults[path];
      set({ faults });
    },
  };
});

/** The state as it is now and the acts on it, for what answers the hand; a screen that shows it uses `useLive`. */
export const liveNow = useLive.getState;
export const onLive = useLive.subscribe;

/** Runs an act on the document as it is after all that this window has sent: a paste may be followed by a copy at once. */
export function whenHeard(act: () => void) {
  if (socket?.readyState !== WebSocket.OPEN || (answered >= seq && !held.length)) act();
  else held.push(act);
}

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
  return { block: blocks[index], path: `/blocks/${index}`, index };
}

/** The open document; only for components that are shown once there is one. */
export function useDocument(): PieceState["document"] {
  return useLive((live) => (live.piece as PieceState).document);
}
