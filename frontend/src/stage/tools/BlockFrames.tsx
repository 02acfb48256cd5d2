import { type KeyboardEvent, useRef, useState } from "react";
import type { Block, BlockDrawing, PieceState } from "../../api/client";
import { CommandItems } from "../../commands/CommandItems";
import { OF_A_BLOCK } from "../../components/BlockMenu";
import { blockName } from "../../components/blockName";
import { arrowOf, stride, useBurst } from "../../components/nudging";
import { shown } from "../../fields/NumberField";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow, useBlock } from "../../live/store";
import { useDrag } from "../../live/useDrag";
import { ContextMenu } from "../../ui/Menu";
import { NumberBeside } from "../NumberBeside";
import { canvasPoint, closedPath, cornersOf, ontoCanvas, ontoFace, type Plane, type Point } from "../plane";
import { linesOf, type Snapped, type Span, snapped } from "../snapping";
import { spanOf, unitsOf } from "../units";
import { FrameHandles } from "./FrameHandles";

const SNAP_PX = 6;

/** A block and its drawing. */
interface Framed {
  at: number;
  block: Block;
  drawing: BlockDrawing;
}

interface Held {
  at: number;
  ground: Plane;
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
  const framed = piece.document.blocks.flatMap((block, at): Framed[] => {
    const drawing = piece.drawings.blocks[at];
    return drawing ? [{ at, block, drawing }] : [];
  });
  const isFree = (at: number) => !piece.document.blocks[at]?.locked;
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
    begin(event, { at, drawing }: Framed): Held | null {
      if (event.shiftKey) {
        pickAlso(at);
        return null;
      }
      const together = picked.includes(at) ? picked : [at];
      if (!picked.includes(at)) openBlock(at);
      const { all, leaders } = unitsOf(piece, together);
      return {
        at,
        ground: drawing.ground,
        from: ontoFace(drawing.ground, canvasPoint(event)),
        span: spanOf(piece, all) ?? [0, 0, 0, 0],
        leaders: leaders.filter(isFree),
        all,
      };
    },
    move(held, event, _, gesture) {
      const here = ontoFace(held.ground, canvasPoint(event));
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
    const way = arrowOf(event);
    if (!way) return;
    event.preventDefault();
    const gesture = burst();
    if (walked.current.gesture !== gesture) walked.current = { gesture, x: 0, y: 0 };
    const size = stride(event);
    walked.current.x += way[0] * size;
    walked.current.y += way[1] * size;
    const { leaders } = unitsOf(piece, picked.includes(at) ? picked : [at]);
    shift(leaders.filter(isFree), [walked.current.x, walked.current.y], gesture, false);
  }

  const shownBlocks = framed
    .filter(({ block, drawing }) => drawing.box && !block.hidden)
    // Small ones last, so that they can be picked in front of large ones.
    .sort((a, b) => areaOf(b.drawing.box) - areaOf(a.drawing.box));
  const open = framed.find(({ at }) => at === index);
  return (
    <g>
      {shownBlocks.map((entry) => {
        const { block, at, drawing } = entry;
        const outline = closedPath(cornersOf(drawing.box as Span, drawing.plane));
        return (
          <g key={block.id}>
            {picked.includes(at) && (
              <path className="pointer-events-none fill-none stroke-black/55" d={outline} strokeWidth={3.5 * unit} />
            )}
            <ContextMenu
              onOpen={() => !picked.includes(at) && openBlock(at)}
              trigger={
                <path
                  data-part="block-frame"
                  className={`pointer-events-auto touch-none fill-transparent focus-visible:outline-2 focus-visible:outline-offset-3 focus-visible:outline-verdigris ${picked.includes(at) ? "stroke-sheet" : "stroke-transparent hover:stroke-sheet/70"} ${block.locked ? "cursor-default [stroke-dasharray:6_5]" : "cursor-move"}`}
                  d={outline}
                  strokeWidth={1.5 * unit}
                  tabIndex={0}
                  role="button"
                  aria-pressed={picked.includes(at)}
                  aria-label={`Block ${blockName(block)}${block.locked ? ", locked" : ""}. Arrow keys move it, Enter opens it, Shift and Enter picks it too.`}
                  {...hold(entry)}
                  onKeyDown={(event) => onKeyDown(event, at)}
                />
              }
            >
              <CommandItems ids={OF_A_BLOCK} />
            </ContextMenu>
          </g>
        );
      })}
      {met && open && <MetLines met={met} ground={open.drawing.ground} piece={piece} unit={unit} />}
      {open?.drawing.box && !open.block.locked && !open.block.hidden && also.length === 0 && (
        <FrameHandles piece={piece} index={index} block={open.block} drawing={open.drawing} box={open.drawing.box} unit={unit} />
      )}
      {met && open?.drawing.box && (
        <NumberBeside at={ontoCanvas(open.drawing.plane, [open.drawing.box[0], open.drawing.box[1]])} unit={unit}>
          {`${shown(open.block.place.x)} across, ${shown(open.block.place.y)} up`}
        </NumberBeside>
      )}
    </g>
  );
}

function MetLines({ met, ground, piece, unit }: { met: Snapped; ground: Plane; piece: PieceState; unit: number }) {
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
    return <path key={`${a}`} className="fill-none stroke-madder" d={`M${from}L${to}`} strokeWidth={unit} />;
  });
}

function areaOf(box: Span | null): number {
  return box ? (box[2] - box[0]) * (box[3] - box[1]) : 0;
}
