/**
 * The live socket of one window. What changes a piece is sent in the order of the hand and has its effect exactly
 * once: what was not acknowledged when the connection was lost is sent again, under the same number, when it is back.
 */
import type { FrameHeader, ServerMessage, WindowMessage } from "../api/client";

/** A message that changes a piece. The piece may no longer be the open one when it is sent. */
export type Change = Pick<WindowMessage, "edits" | "gesture" | "moving"> & {
  type: "edit" | "undo" | "redo";
  piece: string;
};

/** How large the stage is in px, and what of the canvas it shows. */
export type View = Required<Pick<WindowMessage, "width" | "height" | "zoom" | "left" | "top" | "bare">>;

interface Listener {
  /** The connection was made or lost. */
  connected: (connected: boolean) => void;
  /** A message, and the changes that it acknowledges; where it refuses one, that is the last of them. */
  heard: (message: ServerMessage, acknowledged: Change[]) => void;
  /** A picture of the open piece, never an older one than the last, or than the last problem. */
  seen: (header: FrameHeader, bitmap: ImageBitmap) => void;
}

/** 128 random bits in hexadecimal; `randomUUID` is not there for pages that another machine opens without TLS. */
function randomName(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, "0")).join("");
}

type Answer = Exclude<ServerMessage, { type: "problem" | "preparing" | "outlook" }>;
const ON_ITS_OWN = ["problem", "preparing", "outlook"];

/** Whether the server says so in answer to a message. */
function isAnswer(message: ServerMessage): message is Answer {
  return !ON_ITS_OWN.includes(message.type);
}

const FIRST_RETRY_MS = 50;
const LONGEST_RETRY_MS = 2000;

export class Connection {
  /** What this window calls itself, so that the server knows which of its messages it has carried out. */
  readonly #window = randomName();
  readonly #listener: Listener;
  #socket: WebSocket | null = null;
  #retryMs = FIRST_RETRY_MS;
  #piece = "";
  #view: View = { width: 928, height: 522, zoom: 1, left: 0, top: 0, bare: false };
  /** Whether a newer view waits for the answer to the message before. */
  #lookWaits = false;

  /** The number of the newest message. */
  #seq = 0;
  /** Changes that no answer has come to, by their numbers, oldest first. */
  readonly #unacknowledged = new Map<number, Change>();
  /** Numbers of the messages that this socket has carried and no answer has come to, in order. */
  #unanswered: number[] = [];
  /** The newest change of a moving hand, which waits for the answer to the one before. */
  #waiting: Change | null = null;
  /** Acts that wait until all changes are acknowledged. */
  #held: (() => void)[] = [];

  #arrived = 0;
  #shown = 0;

  constructor(listener: Listener) {
    this.#listener = listener;
    // The browser asks before a window closes whose last changes are not stored yet.
    addEventListener("beforeunload", (event) => {
      if (!this.#settled) event.preventDefault();
    });
  }

  get #open(): boolean {
    return this.#socket?.readyState === WebSocket.OPEN;
  }

  /** Opens a piece, in place of the one before. */
  show(piece: string) {
    this.#flush();
    this.#piece = piece;
    if (!this.#socket) this.#connect();
    else if (this.#open) this.#sendOpen();
  }

  /** Shows the picture so large, and this part of it. While answers are on their way, only the newest view waits. */
  look(view: View) {
    if (Object.entries(view).every(([name, value]) => this.#view[name as keyof View] === value)) return;
    this.#view = view;
    if (!this.#piece || !this.#open) return;
    this.#lookWaits = this.#unanswered.length > 0;
    if (!this.#lookWaits) this.#send({ type: "size", ...view }, this.#number());
  }

  /** Sends a change, now or when there is a connection. While the hand moves, only the newest one waits. */
  change(change: Change) {
    if (change.moving && (this.#unanswered.length > 0 || !this.#open)) {
      if (this.#waiting && this.#waiting.gesture !== change.gesture) this.#flush();
      this.#waiting = change;
      return;
    }
    this.#flush(change.gesture);
    this.#sendChange(change);
  }

  /** The hand rests: what it did last is sent as its end. */
  rest() {
    if (this.#waiting) {
      this.#waiting = { ...this.#waiting, moving: false };
      this.#flush();
    } else if (this.#open) this.#send({ type: "rest" }, this.#number());
  }

  /** Runs an act on the document as it is after all that was sent: a paste may be followed by a copy at once. */
  afterAll(act: () => void) {
    if (this.#settled && this.#held.length === 0) act();
    else this.#held.push(act);
  }

  get #settled(): boolean {
    return this.#unacknowledged.size === 0 && this.#waiting === null;
  }

  #number(): number {
    this.#seq += 1;
    return this.#seq;
  }

  #sendChange(change: Change) {
    const seq = this.#number();
    this.#unacknowledged.set(seq, change);
    if (this.#open) this.#send(change, seq);
  }

  /** Sends the waiting change, unless one of the same gesture follows that takes its place. */
  #flush(followedBy?: string | null) {
    const waiting = this.#waiting;
    this.#waiting = null;
    if (waiting && !(followedBy && waiting.gesture === followedBy)) this.#sendChange(waiting);
  }

  #sendOpen() {
    this.#send({ type: "open", piece: this.#piece, window: this.#window, ...this.#view }, this.#number());
    this.#lookWaits = false;
  }

  #send(message: WindowMessage, seq: number) {
    this.#unanswered.push(seq);
    this.#socket?.send(JSON.stringify({ ...message, seq }));
  }

  #connect() {
    const socket = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}/live`);
    socket.binaryType = "arraybuffer";
    socket.onopen = () => {
      this.#retryMs = FIRST_RETRY_MS;
      this.#unanswered = [];
      this.#listener.connected(true);
      this.#sendOpen();
      for (const [seq, change] of this.#unacknowledged) this.#send(change, seq);
    };
    socket.onmessage = ({ data }) => {
      if (typeof data === "string") this.#receive(JSON.parse(data) as ServerMessage);
      else void this.#decode(data as ArrayBuffer);
    };
    socket.onclose = () => {
      this.#listener.connected(false);
      setTimeout(() => this.#connect(), this.#retryMs);
      this.#retryMs = Math.min(2 * this.#retryMs, LONGEST_RETRY_MS);
    };
    this.#socket = socket;
  }

  #receive(message: ServerMessage) {
    // Pictures that are still being decoded are older.
    if (message.type === "problem") this.#shown = ++this.#arrived;
    this.#listener.heard(message, isAnswer(message) ? this.#acknowledge(message.seq) : []);
    if (this.#unanswered.length === 0) {
      if (this.#lookWaits) this.#send({ type: "size", ...this.#view }, this.#number());
      this.#lookWaits = false;
      this.#flush();
    }
    while (this.#held.length > 0 && this.#settled) this.#held.shift()?.();
  }

  /** The changes that an answer to message `seq` acknowledges: the server takes messages in the order of the socket. */
  #acknowledge(seq: number): Change[] {
    const answered = this.#unanswered.splice(0, this.#unanswered.lastIndexOf(seq) + 1);
    return answered.flatMap((number) => {
      const change = this.#unacknowledged.get(number);
      this.#unacknowledged.delete(number);
      return change ? [change] : [];
    });
  }

  /** Pictures are decoded side by side, and may be ready in another order than they came in. */
  async #decode(data: ArrayBuffer) {
    this.#arrived += 1;
    const arrival = this.#arrived;
    const length = new DataView(data).getUint32(0);
    const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as FrameHeader;
    const bitmap = await createImageBitmap(new Blob([new Uint8Array(data, 4 + length)], { type: header.media }));
    if (arrival < this.#shown || header.piece !== this.#piece) {
      bitmap.close();
      return;
    }
    this.#shown = arrival;
    this.#listener.seen(header, bitmap);
  }
}
