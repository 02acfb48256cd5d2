/** Which blocks are moved together: those of one group, and those that are picked. */
import type { PieceState } from "../api/client";
import { type Span, unionOf } from "./snapping";

/** The indexes of all blocks that go with the picked ones, and one index for each group or single block among them. */
export function unitsOf(piece: PieceState, picked: readonly number[]): { all: number[]; leaders: number[] } {
  const blocks = piece.document.blocks;
  const all = new Set<number>();
  const leaders: number[] = [];
  for (const at of picked) {
    if (!blocks[at] || all.has(at)) continue;
    leaders.push(at);
    const { group } = blocks[at];
    blocks.forEach((other, index) => {
      if (index === at || (group && other.group === group)) all.add(index);
    });
  }
  return { all: [...all], leaders };
}

/** What blocks span together, as they stand; null where none of them can be set. */
export function spanOf(piece: PieceState, blocks: readonly number[]): Span | null {
  const spans = blocks.flatMap((at) => {
    const span = piece.drawings.blocks[at].span;
    return span ? [span] : [];
  });
  return spans.length ? unionOf(spans) : null;
}
