import { type KeyboardEvent, type PointerEvent, useEffect, useRef } from "react";
import { blockName } from "../components/blockName";
import { stride, useBurst } from "../components/nudging";
import { type Frame, liveNow, newGesture, onLive, useLive } from "../live/store";
import { StageMarks } from "./StageMarks";
import { ToolHint } from "./ToolHint";

const MARGIN_PX = 16;
const DEGREES_PER_PX = 0.25;

function draw(canvas: HTMLCanvasElement | null, frame: Frame) {
  if (!canvas) return;
  canvas.width = frame.width;
  canvas.height = frame.height;
  canvas.getContext("2d")?.drawImage(frame.bitmap, 0, 0);
  canvas.dataset.seq = String(frame.seq);
  canvas.dataset.stage = frame.stage;
  canvas.dataset.revision = String(frame.revision);
}

/** The stage shows only the real render, as large as it fits. Dragging turns the lettering; so do the arrow keys. */
export function Stage({ surround }: { surround: string }) {
  const room = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const piece = useLive((live) => live.piece);
  const notice = useLive((live) => live.refusal || live.notice);
  const { edit, rest, resize } = liveNow();
  const drag = useRef<{ x: number; y: number; turn: { x: number; y: number }; gesture: string; moved: boolean } | null>(null);
  const burst = useBurst();

  useEffect(() => {
    const element = room.current;
    if (!element) return;
    const watcher = new ResizeObserver(() => {
      const scale = Math.min(window.devicePixelRatio, 2);
      const fit = (side: number) => Math.max(Math.round((side - 2 * MARGIN_PX) * scale), 64);
      resize(fit(element.clientWidth), fit(element.clientHeight));
    });
    watcher.observe(element);
    return () => watcher.disconnect();
  }, [resize]);

  // A frame goes straight to the canvas: by way of a render of the screen it would be seen a frame later.
  useEffect(() => onLive(({ frame }, before) => frame && frame !== before.frame && draw(canvas.current, frame)), []);

  function turn(x: number, y: number, gesture: string, moving: boolean) {
    const round = (value: number) => Number(value.toFixed(2));
    edit(
      [
        { op: "replace", path: "/view/turn/x", value: round(x) },
        { op: "replace", path: "/view/turn/y", value: round(y) },
      ],
      { gesture, moving },
    );
  }

  function onPointerDown(event: PointerEvent) {
    if (!piece || event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const { x, y } = piece.document.view.turn;
    drag.current = { x: event.clientX, y: event.clientY, turn: { x, y }, gesture: newGesture(), moved: false };
  }

  function onPointerMove(event: PointerEvent) {
    const held = drag.current;
    if (!held) return;
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
    if (!held.moved && Math.hypot(dx, dy) < 3) return;
    held.moved = true;
    turn(held.turn.x + dy * DEGREES_PER_PX, held.turn.y + dx * DEGREES_PER_PX, held.gesture, true);
  }

  function onPointerUp() {
    if (drag.current?.moved) rest();
    drag.current = null;
  }

  function onKeyDown(event: KeyboardEvent) {
    const way = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
    if (!way || !piece) return;
    event.preventDefault();
    const size = stride(event);
    const { x, y } = piece.document.view.turn;
    turn(x + (way[0] ?? 0) * size, y + (way[1] ?? 0) * size, burst(), false);
  }

  const shape = piece ? piece.document.canvas.width / piece.document.canvas.height : 16 / 9;
  return (
    <main className={`stage surround-${surround}`} ref={room}>
      <div className="stage-fit" style={{ "--shape": shape } as React.CSSProperties}>
        <canvas
          ref={canvas}
          tabIndex={0}
          role="img"
          aria-label={piece ? `Picture of ${piece.document.blocks.map(blockName).join(", ")}. Arrow keys turn it.` : "Picture"}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onKeyDown={onKeyDown}
        />
        {piece && <StageMarks />}
      </div>
      <ToolHint />
      {notice && (
        <p className="stage-notice" role="alert">
          {notice}
        </p>
      )}
    </main>
  );
}
