import { type KeyboardEvent, useRef } from "react";
import type { Bevel } from "../../api/client";
import { arrowOf } from "../../components/nudging";
import { liveNow, newGesture, useBlock, useLive } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { Drawing, Handle } from "../../ui/Drawing";

const [WIDTH, HEIGHT, PAD] = [286, 130, 14];
const NEAREST = 0.01;

type Points = [number, number][];

/** The free curve: drag its points; double-click adds one, Delete removes one, arrows nudge. */
export function CurveEditor({ bevel, path }: { bevel: Bevel; path: string }) {
  const { index } = useBlock();
  const profile = useLive((live) => live.piece?.drawings.blocks[index]?.profile) ?? [];
  const { edit } = liveNow();
  const frame = useRef<SVGSVGElement>(null);
  const points = bevel.curve as Points;
  const x = (t: number) => PAD + t * (WIDTH - 2 * PAD);
  const y = (rise: number) => HEIGHT - PAD - rise * (HEIGHT - 2 * PAD);

  function put(next: Points, gesture: string, moving: boolean) {
    edit([{ op: "replace", path: `${path}/curve`, value: next }], { gesture, moving });
  }

  function place(event: { clientX: number; clientY: number }): [number, number] {
    const box = (frame.current as SVGSVGElement).getBoundingClientRect();
    const t = ((event.clientX - box.left) / box.width) * WIDTH;
    const rise = ((event.clientY - box.top) / box.height) * HEIGHT;
    return [(t - PAD) / (WIDTH - 2 * PAD), (HEIGHT - PAD - rise) / (HEIGHT - 2 * PAD)];
  }

  /** A point stays between its neighbours: a profile never runs backwards. */
  function moved(at: number, [t, rise]: [number, number], from: Points): Points {
    const low = (from[at - 1]?.[0] ?? 0) + NEAREST;
    const high = (from[at + 1]?.[0] ?? 1) - NEAREST;
    const next = [...from];
    next[at] = [Number(Math.min(Math.max(t, low), high).toFixed(3)), Number(Math.min(Math.max(rise, 0), 1).toFixed(3))];
    return next;
  }

  function onKeyDown(event: KeyboardEvent, at: number) {
    const step = event.shiftKey ? 0.1 : 0.01;
    const way = arrowOf(event);
    const point = points[at];
    if (!point) return;
    const [t, rise] = point;
    if (way) {
      event.preventDefault();
      put(moved(at, [t + way[0] * step, rise + way[1] * step], points), newGesture(), false);
    } else if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      put(
        points.filter((_, i) => i !== at),
        newGesture(),
        false,
      );
    }
  }

  const hold = useDrag({
    threshold: 0,
    begin: (_, at: number) => ({ at, points }),
    move: (held, event, _, gesture) => put(moved(held.at, place(event), held.points), gesture, true),
  });

  return (
    <Drawing
      ref={frame}
      className="mt-1 touch-none"
      width={WIDTH}
      height={HEIGHT}
      role="group"
      aria-label="Free curve. Double-click adds a point."
      onDoubleClick={(event) => {
        const [t, rise] = place(event);
        if (t > NEAREST && t < 1 - NEAREST && points.every(([other]) => Math.abs(other - t) > NEAREST))
          put([...points, [t, Math.min(Math.max(rise, 0), 1)] as [number, number]], newGesture(), false);
      }}
    >
      <path className="fill-none stroke-rule" d={`M${x(0)} ${y(1)}V${y(0)}H${x(1)}V${y(1)}`} />
      <path
        className="fill-none stroke-ink stroke-[1.6]"
        d={profile.map(([t, r], i) => `${i ? "L" : "M"}${x(t).toFixed(1)} ${y(r).toFixed(1)}`).join("")}
      />
      {points.map(([t, rise], at) => (
        <g key={at}>
          <Handle
            cx={x(t)}
            cy={y(rise)}
            r={6}
            tabIndex={0}
            role="slider"
            aria-label={`Curve point ${at + 1}`}
            aria-valuenow={Math.round(rise * 100)}
            aria-valuetext={`${Math.round(t * 100)} % in, ${Math.round(rise * 100)} % up`}
            onKeyDown={(event) => onKeyDown(event, at)}
            {...hold(at)}
          />
        </g>
      ))}
    </Drawing>
  );
}
