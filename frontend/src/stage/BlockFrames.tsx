import { type KeyboardEvent, useRef, useState } from "react";
import type { PieceState } from "../api/client";
import { CommandItems } from "../commands/CommandItems";
import { OF_A_BLOCK } from "../components/BlockMenu";
import { blockName } from "../components/blockName";
import { stride, useBurst } from "../components/nudging";
import { shown } from "../fields/NumberField";
import { deskNow, useDesk } from "../live/desk";
import { liveNow, useBlock } from "../live/store";
import { useDrag } from "../live/useDrag";
import { ContextMenu } from "../ui/Menu";
import { FrameHandles } from "./FrameHandles";
import { NumberBeside } from "./NumberBeside";
import { canvasPoint, closedPath, cornersOf, ontoCanvas, ontoFace, type Point } from "./plane";
import { linesOf, type Snapped, type Span, snapped } from "./snapping";
import { spanOf, unitsOf } from "./units";

const SNAP_PX = 6;

interface Held {
  at: number;
  from: Point;
  span: Span;
  leaders: number[];
  all: number[];
}

/** Blocks on the stage while words are set: a click picks one, a drag moves it and its group; arrow keys move the picked ones. */
export function BlockFrames({ piece, unit }: { piece: PieceState; unit: number }) {
  const { index } = useBlock();
  const also = useDesk((desk) => desk.also);
  const guides = useDesk((desk) => desk.guides);
  const { openBlock, pickAlso } = deskNow();
  const { edit } = liveNow();
  const burst = useBurst();
  const walked = useRef({ gesture: "", x: 0, y: 0 });
  const [met, setMet] = useState<Snapped | null>(null);
  const blocks = piece.document.blocks;
  const drawn = piece.drawings.blocks;
  const picked = [index, ...also];

  function shift(leaders: number[], move: readonly [number, number], gesture: string, moving: boolean) {
    if (leaders.length === 0) return;
    const value = move.map((v) => Number(v.toFixed(2)));
    edit(
      leaders.map((at) => ({ op: "shift" as const, path: `/blocks/${at}`, value })),
      { gesture, moving },
    );
  }

  const hold = useDrag({
    begin(event, at: number): Held | null {
      if (event.shiftKey) {
        pickAlso(at);
        return null;
      }
      const together = picked.includes(at) ? picked : [at];
      if (!picked.includes(at)) openBlock(at);
      const { all, leaders } = unitsOf(piece, together);
      return {
        at,
        from: ontoFace(drawn[at].ground, canvasPoint(event)),
        span: spanOf(piece, all) ?? [0, 0, 0, 0],
        leaders: leaders.filter((i) => !blocks[i].locked),
        all,
      };
    },
    move(held, event, _, gesture) {
      const here = ontoFace(drawn[held.at].ground, canvasPoint(event));
      const move: [number, number] = [here[0] - held.from[0], here[1] - held.from[1]];
      // Alt moves freely.
      const reach = event.altKey ? -1 : SNAP_PX * unit;
      const to = snapped(held.span, move, linesOf(piece, held.all, guides), reach);
      setMet(to);
      shift(held.leaders, to.move, gesture, true);
    },
    end({ at }, moved) {
      setMet(null);
      // A click on one of several picked blocks picks it alone.
      if (!moved && also.length) openBlock(at);
    },
  });

  function onKeyDown(event: KeyboardEvent, at: number) {
    if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      if (event.shiftKey) pickAlso(at);
      else openBlock(at);
      return;
    }
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way) return;
    event.preventDefault();
    const gesture = burst();
    if (walked.current.gesture !== gesture) walked.current = { gesture, x: 0, y: 0 };
    const size = stride(event);
    walked.current.x += way[0] * size;
    walked.current.y += way[1] * size;
    const { leaders } = unitsOf(piece, picked.includes(at) ? picked : [at]);
    shift(
      leaders.filter((i) => !blocks[i].locked),
      [walked.current.x, walked.current.y],
      gesture,
      false,
    );
  }

  const shownBlocks = blocks
    .map((block, at) => ({ block, at, drawing: drawn[at] }))
    .filter(({ block, drawing }) => drawing?.box && !block.hidden)
    // Small ones last, so that they can be picked in front of large ones.
    .sort((a, b) => areaOf(b.drawing.box) - areaOf(a.drawing.box));
  const open = drawn[index];
  const { place } = blocks[index];
  return (
    <g className="block-frames">
      {shownBlocks.map(({ block, at, drawing }) => {
        const outline = closedPath(cornersOf(drawing.box as Span).map((corner) => ontoCanvas(drawing.plane, corner)));
        return (
          <g key={block.id}>
            {picked.includes(at) && <path className="casing" d={outline} strokeWidth={3.5 * unit} />}
            <ContextMenu
              onOpen={() => !picked.includes(at) && openBlock(at)}
              trigger={
                <path
                  className={`block-frame${picked.includes(at) ? " picked" : ""}${block.locked ? " locked" : ""}`}
                  d={outline}
                  strokeWidth={1.5 * unit}
                  tabIndex={0}
                  role="button"
                  aria-pressed={picked.includes(at)}
                  aria-label={`Block ${blockName(block)}${block.locked ? ", locked" : ""}. Arrow keys move it, Enter opens it, Shift and Enter picks it too.`}
                  {...hold(at)}
                  onKeyDown={(event) => onKeyDown(event, at)}
                />
              }
            >
              <CommandItems ids={OF_A_BLOCK} />
            </ContextMenu>
          </g>
        );
      })}
      {met && <MetLines met={met} ground={open.ground} piece={piece} unit={unit} />}
      {open?.box && !blocks[index].locked && !blocks[index].hidden && also.length === 0 && (
        <FrameHandles piece={piece} index={index} unit={unit} />
      )}
      {met && open?.box && (
        <NumberBeside at={ontoCanvas(open.plane, [open.box[0], open.box[1]])} unit={unit}>
          {`${shown(place.x)} across, ${shown(place.y)} up`}
        </NumberBeside>
      )}
    </g>
  );
}

function MetLines({ met, ground, piece, unit }: { met: Snapped; ground: number[]; piece: PieceState; unit: number }) {
  const { width, height } = piece.document.canvas;
  const lines: [Point, Point][] = [];
  if (met.met.x !== null)
    lines.push([
      [met.met.x, -height],
      [met.met.x, height],
    ]);
  if (met.met.y !== null)
    lines.push([
      [-width, met.met.y],
      [width, met.met.y],
    ]);
  return lines.map(([a, b]) => {
    const [from, to] = [ontoCanvas(ground, a), ontoCanvas(ground, b)];
    return <path key={`${a}`} className="met-line" d={`M${from}L${to}`} strokeWidth={unit} />;
  });
}

function areaOf(box: Span | null): number {
  return box ? (box[2] - box[0]) * (box[3] - box[1]) : 0;
}
