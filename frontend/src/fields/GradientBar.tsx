import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Gradient, Stop } from "../api/client";
import { stride, useWalk } from "../components/nudging";
import { shownColour, usePaints } from "../live/paints";
import { liveNow } from "../live/store";
import { useDrag } from "../live/useDrag";
import { useField } from "../live/workshop";
import { TextAction } from "../ui/TextAction";
import { FieldsOf } from "./FieldsOf";

/** What a gradient is mixed in, as CSS says it. */
const SPACES = { oklab: "oklab", srgb: "srgb", linear: "srgb-linear" } as const;
/** Part of the bar that stops at 0 and 100 % keep from its ends. */
const INSET = 4;

/**
 * The colours of a gradient as a bar with its stops: press between them for a new one, drag or key one along, Delete
 * takes it away. The picked stop's numbers stand below.
 */
export function GradientBar({ gradient, path }: { gradient: Gradient; path: string }) {
  const { stops } = gradient;
  const { edit } = liveNow();
  const paints = usePaints();
  const bar = useRef<HTMLDivElement>(null);
  const [at, setPicked] = useState(0);
  const picked = Math.min(at, stops.length - 1);
  const stop = stops[picked];
  const walk = useWalk();
  const step = useField("Stop.at")?.step ?? 1;
  const { low, length } = rangeOf(stops);
  const left = (place: number) => INSET + ((place - low) / length) * (100 - 2 * INSET);
  const placeAt = (x: number) => {
    const box = bar.current?.getBoundingClientRect();
    return box ? low + (((x - box.left) / box.width) * 100 - INSET) * (length / (100 - 2 * INSET)) : 0;
  };

  function move(index: number, to: number, gesture: string, moving: boolean) {
    const least = stops[index - 1]?.at ?? -1000;
    const most = stops[index + 1]?.at ?? 1000;
    const value = Number(Math.min(Math.max(to, least), most).toFixed(1));
    if (value === stops[index]?.at) return;
    edit([{ op: "replace", path: `${path}/stops/${index}/at`, value }], { gesture, moving });
  }

  function add(event: PointerEvent<HTMLDivElement>) {
    if (event.target !== event.currentTarget) return;
    const place = Number(placeAt(event.clientX).toFixed(1));
    const index = stops.filter((other) => other.at <= place).length;
    const colour = (stops[index - 1] ?? stops[index])?.colour;
    edit([{ op: "add", path: `${path}/stops/${index}`, value: { at: place, colour } }]);
    setPicked(index);
  }

  function remove(index: number) {
    if (stops.length < 2) return;
    edit([{ op: "remove", path: `${path}/stops/${index}` }]);
    setPicked(Math.max(index - 1, 0));
  }

  const hold = useDrag<number, { index: number; from: number }>({
    begin(_, index) {
      setPicked(index);
      return { index, from: stops[index]?.at ?? 0 };
    },
    move({ index, from }, _, [dx], gesture) {
      const width = bar.current?.getBoundingClientRect().width ?? 1;
      move(index, from + ((dx / width) * 100 * length) / (100 - 2 * INSET), gesture, true);
    },
  });

  function key(event: KeyboardEvent, index: number) {
    const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (way) {
      const { to, gesture } = walk(stops[index]?.at ?? 0, way * step * stride(event));
      move(index, to, gesture, false);
    } else if (event.key === "Delete" || event.key === "Backspace") remove(index);
    else return;
    event.preventDefault();
  }

  return (
    <>
      <div
        ref={bar}
        data-part="gradient-bar"
        className="relative mt-1 mb-3 h-7 cursor-copy rounded-sheet border border-rule-firm"
        style={{ background: cssOf(gradient, left, (colour) => shownColour(colour, paints)) }}
        onPointerDown={add}
      >
        {stops.map((other, index) => (
          <span
            key={index}
            role="slider"
            tabIndex={0}
            aria-label={`Stop ${index + 1}`}
            aria-valuenow={other.at}
            aria-valuemin={stops[index - 1]?.at ?? -1000}
            aria-valuemax={stops[index + 1]?.at ?? 1000}
            aria-valuetext={`${other.at} %, ${other.colour}`}
            data-picked={index === picked || undefined}
            className="absolute top-3.5 h-5 w-3 -translate-x-1/2 cursor-ew-resize touch-none rounded-sheet border-2 border-sheet outline-1 outline-ink data-picked:outline-2 data-picked:outline-verdigris"
            style={{ left: `${left(other.at)}%`, background: shownColour(other.colour, paints) }}
            onFocus={() => setPicked(index)}
            onKeyDown={(event) => key(event, index)}
            {...hold(index)}
          />
        ))}
      </div>
      {stop && (
        <div role="group" aria-label={`Stop ${picked + 1} of ${stops.length}`}>
          <FieldsOf model="Stop" path={`${path}/stops/${picked}`} values={stop} />
          {stops.length > 1 && (
            <p className="text-right">
              <TextAction onClick={() => remove(picked)}>Remove stop</TextAction>
            </p>
          )}
        </div>
      )}
    </>
  );
}

/** The places that the bar shows: all of the gradient, and stops beyond it. */
function rangeOf(stops: readonly Stop[]): { low: number; length: number } {
  const low = Math.min(0, ...stops.map((stop) => stop.at));
  return { low, length: Math.max(100, ...stops.map((stop) => stop.at)) - low };
}

/** The bar's colours, mixed by the browser in the same space: CSS Images 4. */
function cssOf({ stops, mix }: Gradient, left: (place: number) => number, shown: (colour: string) => string): string {
  const parts = stops.flatMap((stop, index) => {
    const next = stops[index + 1];
    const colour = (of: Stop) =>
      `${shown(of.colour)}${Math.round(of.opacity * 2.55)
        .toString(16)
        .padStart(2, "0")}`;
    const own = `${colour(stop)} ${left(stop.at)}%`;
    if (!next || stop.hardness === 0) return [own];
    const held = ((next.at - stop.at) * stop.hardness) / 200;
    return [own, `${colour(stop)} ${left(stop.at + held)}%`, `${colour(next)} ${left(next.at - held)}%`];
  });
  return `linear-gradient(in ${SPACES[mix]} to right, ${parts.join(", ")}${parts.length === 1 ? `, ${parts[0]}` : ""})`;
}
