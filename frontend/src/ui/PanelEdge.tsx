import type { KeyboardEvent } from "react";
import { useHold } from "./useHold";

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
  const put = (to: number, done: boolean) => onWidth(Math.round(Math.min(Math.max(to, least), most)), done);
  const hold = useHold({
    threshold: 0,
    begin: () => width,
    move: (from, _, [dx]) => put(from - dx, false),
    end: () => put(width, true),
  });

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
      {...hold(undefined)}
      onKeyDown={onKeyDown}
    />
  );
}
