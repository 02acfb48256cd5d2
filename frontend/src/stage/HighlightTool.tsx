import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { deskNow, useDesk } from "../live/desk";
import { liveNow, useDocument } from "../live/store";

const NUDGE_PX = 4;

/** Waits for the spot where the picked lamp is to shine: a click, or the cross moved by arrow keys and Enter. */
export function HighlightTool({ width, height }: { width: number; height: number }) {
  const { lamps } = useDocument().light;
  const picked = useDesk((desk) => desk.lamp);
  const lamp = lamps[Math.min(picked, lamps.length - 1)];
  const [cross, setCross] = useState<[number, number]>([width / 2, height / 2]);
  const area = useRef<SVGRectElement>(null);
  const unit = width / 928;
  useEffect(() => area.current?.focus(), []);

  function at(event: PointerEvent<SVGRectElement>): [number, number] {
    const box = event.currentTarget.getBoundingClientRect();
    return [((event.clientX - box.left) / box.width) * width, ((event.clientY - box.top) / box.height) * height];
  }

  function place([x, y]: [number, number]) {
    deskNow().take(null);
    void liveNow().placeHighlight(lamp.id, x, y);
  }

  function onKeyDown(event: KeyboardEvent) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (way) {
      const far = NUDGE_PX * unit * (event.shiftKey ? 10 : 1);
      setCross(([x, y]) => [x + (way[0] ?? 0) * far, y + (way[1] ?? 0) * far]);
    } else if (event.key === "Enter") place(cross);
    else if (event.key === "Escape") deskNow().take(null);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  const [x, y] = cross;
  return (
    <>
      <g className="highlight-cross" transform={`translate(${x} ${y}) scale(${unit})`}>
        <circle r={9} />
        <path d="M-20 0H-5M5 0H20M0-20V-5M0 5V20" />
        <g transform="translate(26 -26)">
          <rect y={-13} width={14 + 6.3 * `highlight of ${lamp.name}`.length} height={19} />
          <text x={7} y={1}>
            highlight of {lamp.name}
          </text>
        </g>
      </g>
      <rect
        ref={area}
        className="drawing-sheet"
        width={width}
        height={height}
        tabIndex={0}
        aria-label={`Spot for the highlight of ${lamp.name}`}
        onPointerMove={(event) => setCross(at(event))}
        onPointerDown={(event) => place(at(event))}
        onKeyDown={onKeyDown}
      />
    </>
  );
}
