import { type KeyboardEvent, type PointerEvent, useRef } from "react";

const STEP_PX = 16;

interface Props {
  label: string;
  width: number;
  least: number;
  most: number;
  /** Where it was put; `done` when the hand has let go. */
  onWidth: (width: number, done: boolean) => void;
}

/** The edge of a panel that stands at the right: drag it, or move it with the arrow keys. */
export function PanelEdge({ label, width, least, most, onWidth }: Props) {
  const held = useRef<{ from: number; width: number } | null>(null);
  const put = (to: number, done: boolean) => onWidth(Math.round(Math.min(Math.max(to, least), most)), done);

  function onPointerDown(event: PointerEvent<HTMLDivElement>) {
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { from: event.clientX, width };
  }

  function onPointerMove(event: PointerEvent) {
    if (held.current) put(held.current.width + held.current.from - event.clientX, false);
  }

  function letGo() {
    if (held.current) put(width, true);
    held.current = null;
  }

  function onKeyDown(event: KeyboardEvent) {
    const way = { ArrowLeft: 1, ArrowRight: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    put(width + way * STEP_PX, true);
  }

  return (
    <div
      role="separator"
      tabIndex={0}
      aria-label={label}
      aria-orientation="vertical"
      aria-valuenow={width}
      aria-valuemin={least}
      aria-valuemax={most}
      className="absolute inset-y-0 -left-1 z-10 w-2 cursor-col-resize touch-none hover:bg-verdigris/30 focus-visible:bg-verdigris/30 max-[820px]:hidden"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={letGo}
      onPointerCancel={letGo}
      onKeyDown={onKeyDown}
    />
  );
}
