/** Snapping: a span that is moved meets the lines of other spans, of the guides and of the canvas. */
import type { PieceState } from "../api/client";

/** left, bottom, right, top in px from the canvas' middle. */
export type Span = readonly [number, number, number, number];
export interface Lines {
  /** Where upright lines stand. */
  x: number[];
  /** Where level lines stand. */
  y: number[];
}

/** A move, and the lines that it was drawn to. */
export interface Snapped {
  move: [number, number];
  met: { x: number | null; y: number | null };
}

/** The lines there are to snap to: edges and middles of the other blocks, the canvas' own, and the guides that are shown. */
export function linesOf(piece: PieceState, moved: readonly number[], guides: boolean): Lines {
  const { width, height } = piece.document.canvas;
  const lines: Lines = { x: [-width / 2, 0, width / 2], y: [-height / 2, 0, height / 2] };
  piece.drawings.blocks.forEach(({ span }, at) => {
    const block = piece.document.blocks[at];
    if (!span || moved.includes(at) || block?.hidden) return;
    lines.x.push(span[0], (span[0] + span[2]) / 2, span[2]);
    lines.y.push(span[1], (span[1] + span[3]) / 2, span[3]);
  });
  if (guides) for (const guide of piece.drawings.guides) lines[guide.way === "upright" ? "x" : "y"].push(guide.at);
  return lines;
}

export function snapped(span: Span, [dx, dy]: readonly [number, number], lines: Lines, reach: number): Snapped {
  const across = nearest([span[0], (span[0] + span[2]) / 2, span[2]], dx, lines.x, reach);
  const up = nearest([span[1], (span[1] + span[3]) / 2, span[3]], dy, lines.y, reach);
  return { move: [across?.move ?? dx, up?.move ?? dy], met: { x: across?.line ?? null, y: up?.line ?? null } };
}

function nearest(own: number[], move: number, lines: number[], reach: number) {
  let best: { move: number; line: number } | null = null;
  let least = reach;
  for (const from of own) {
    for (const line of lines) {
      const off = Math.abs(from + move - line);
      if (off <= least) {
        least = off;
        best = { move: line - from, line };
      }
    }
  }
  return best;
}

export function unionOf(spans: readonly Span[]): Span {
  return [
    Math.min(...spans.map((span) => span[0])),
    Math.min(...spans.map((span) => span[1])),
    Math.max(...spans.map((span) => span[2])),
    Math.max(...spans.map((span) => span[3])),
  ];
}
