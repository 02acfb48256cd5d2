import { type KeyboardEvent, useEffect, useRef } from "react";
import { blockName } from "../components/blockName";
import { SURROUND, type Surround } from "../components/Header";
import { arrowOf, stride, useBurst } from "../components/nudging";
import { deskNow, onDesk, useDesk } from "../live/desk";
import { type Frame, liveNow, onLive, useLive } from "../live/store";
import { useDrag } from "../live/useDrag";
import type { Part } from "./part";
import { StageMarks } from "./StageMarks";
import { ToolHint } from "./tools/ToolHint";
import { useStageView } from "./useStageView";

const MARGIN_PX = 16;
const DEGREES_PER_PX = 0.25;

/** Draws a frame where it belongs in the part that is shown now: while a newer one is on its way it stands for it. */
function draw(canvas: HTMLCanvasElement | null, frame: Frame, part: Part, whole: { width: number; height: number }) {
  if (!canvas) return;
  canvas.width = frame.width;
  canvas.height = frame.height;
  const larger = part.zoom / frame.zoom;
  const x = ((frame.left - part.left) * part.zoom * frame.width) / whole.width;
  const y = ((frame.top - part.top) * part.zoom * frame.height) / whole.height;
  canvas.getContext("2d")?.drawImage(frame.bitmap, x, y, frame.width * larger, frame.height * larger);
  canvas.dataset.seq = String(frame.seq);
  canvas.dataset.stage = frame.stage;
  canvas.dataset.revision = String(frame.revision);
  canvas.dataset.zoom = String(frame.zoom);
}

/** The stage shows only the real render, as large as it fits. Dragging turns the lettering; so do the arrow keys. */
export function Stage({ surround }: { surround: Surround }) {
  const room = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const piece = useLive((live) => live.piece);
  const notice = useLive((live) => live.refusal || live.notice);
  const { edit, look } = liveNow();
  const stage = useDesk((desk) => desk.stage);
  const part = useDesk((desk) => desk.part);
  const bare = useDesk((desk) => desk.bare);
  const view = useStageView(room, canvas);
  const burst = useBurst();

  useEffect(() => {
    const element = room.current;
    if (!element) return;
    const watcher = new ResizeObserver(() => {
      deskNow().measure({ width: element.clientWidth - 2 * MARGIN_PX, height: element.clientHeight - 2 * MARGIN_PX });
    });
    watcher.observe(element);
    return () => watcher.disconnect();
  }, []);

  useEffect(() => {
    const scale = Math.min(window.devicePixelRatio, 2);
    const px = (side: number) => Math.max(Math.round(side * scale), 64);
    look({ width: px(stage.width), height: px(stage.height), ...part, bare });
  }, [look, stage, part, bare]);

  // A frame goes straight to the canvas: by way of a render of the screen it would be seen a frame later.
  useEffect(() => {
    const show = () => {
      const { frame, piece } = liveNow();
      if (frame && piece) draw(canvas.current, frame, deskNow().part, piece.document.canvas);
    };
    const stops = [
      onLive((now, before) => now.frame !== before.frame && show()),
      onDesk((now, before) => now.part !== before.part && show()),
    ];
    return () => {
      for (const stop of stops) stop();
    };
  }, []);

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

  const hold = useDrag({
    begin: () => (piece ? piece.document.view.turn : null),
    move: (from, _, [dx, dy], gesture) => turn(from.x + dy * DEGREES_PER_PX, from.y + dx * DEGREES_PER_PX, gesture, true),
  });

  function onKeyDown(event: KeyboardEvent) {
    const way = arrowOf(event);
    if (!way || !piece) return;
    event.preventDefault();
    const size = stride(event);
    const { x, y } = piece.document.view.turn;
    turn(x - way[1] * size, y + way[0] * size, burst(), false);
  }

  const shape = piece ? piece.document.canvas.width / piece.document.canvas.height : 16 / 9;
  return (
    <main
      data-part="stage"
      className={`relative grid min-h-0 min-w-0 touch-none place-items-center overflow-clip p-4 ${SURROUND[surround]}`}
      ref={room}
      {...view}
    >
      <div
        className="grid size-full place-items-center *:[grid-area:1/1] @container-size"
        style={{ "--shape": shape } as React.CSSProperties}
      >
        <canvas
          ref={canvas}
          className="aspect-(--shape) h-auto w-[min(100cqw,100cqh*var(--shape))] cursor-grab touch-none focus-visible:outline-offset-4 active:cursor-grabbing"
          tabIndex={0}
          role="img"
          aria-label={piece ? `Picture of ${piece.document.blocks.map(blockName).join(", ")}. Arrow keys turn it.` : "Picture"}
          {...hold(undefined)}
          onKeyDown={onKeyDown}
        />
        {piece && <StageMarks />}
      </div>
      <ToolHint />
      {notice && (
        <p
          data-part="notice"
          role="alert"
          className="absolute inset-x-6 bottom-6 w-fit max-w-[calc(100%-48px)] border-l-3 border-madder bg-sheet px-3 py-2"
        >
          {notice}
        </p>
      )}
    </main>
  );
}
