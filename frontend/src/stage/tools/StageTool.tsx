/** Tools that are in hand: the whole stage is theirs until they are put down. */
import { type MouseEvent, type ReactNode, useEffect, useRef } from "react";
import { useHold } from "../../ui/useHold";
import { canvasPoint, type Point } from "../plane";

/** What a tool does with the hand. Points are px of the canvas from its top left. */
export interface StageTool {
  /** What the stage waits for, said to a screen reader. */
  label: string;
  /** What the tool draws over the picture. */
  marks: ReactNode;
  hover?: (at: Point) => void;
  press: (at: Point) => void;
  /** The hand has moved since the press. */
  drag?: (at: Point) => void;
  /** The hand lets go, or the touch was taken away. */
  release?: () => void;
  pressTwice?: () => void;
  /** Whether the tool takes this key; Escape, which puts it down, never comes here. */
  key: (event: KeyboardEvent) => boolean;
  /** Puts the tool down and leaves everything as it was. */
  cancel: () => void;
}

interface Props {
  tool: StageTool;
  width: number;
  height: number;
}

/** Gives the stage into a tool's hand. */
export function InHand({ tool, width, height }: Props) {
  const sheet = useRef<SVGRectElement>(null);
  useEffect(() => sheet.current?.focus(), []);

  useEffect(() => {
    function onKeyDown(event: KeyboardEvent) {
      if (event.key === "Escape") tool.cancel();
      else if (!tool.key(event)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
    }
    // Ahead of the screen's own keys: while a line is drawn, stepping back takes back a point of it.
    window.addEventListener("keydown", onKeyDown, true);
    return () => window.removeEventListener("keydown", onKeyDown, true);
  });

  const hold = useHold({
    threshold: 0,
    begin(event) {
      tool.press(canvasPoint(event));
      return true;
    },
    move: (_, event) => tool.drag?.(canvasPoint(event)),
    end: () => tool.release?.(),
  })(undefined);

  return (
    <>
      {tool.marks}
      <rect
        ref={sheet}
        data-part="in-hand"
        className="pointer-events-auto cursor-crosshair touch-none fill-transparent"
        width={width}
        height={height}
        tabIndex={0}
        aria-label={tool.label}
        {...hold}
        onPointerMove={(event) => {
          tool.hover?.(canvasPoint(event));
          hold.onPointerMove(event);
        }}
        onDoubleClick={(_: MouseEvent) => tool.pressTwice?.()}
      />
    </>
  );
}
