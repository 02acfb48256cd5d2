/** Which blocks move together: the server says what goes with each. */
import type { PieceState } from "../api/client";
import { type Span, unionOf } from "./snapping";

/** The numbers of all blocks that go with the picked ones, and one number for each group or single block among them. */
export function unitsOf(piece: PieceState, picked: readonly number[]): { all: number[]; leaders: number[] } {
  const all = new Set<number>();
  const leaders: number[] = [];
  for (const at of picked) {
    const unit = piece.drawings.blocks[at]?.unit;
    if (!unit || all.has(at)) continue;
    leaders.push(at);
    for (const other of unit) all.add(other);
  }
  return { all: [...all], leaders };
}

/** What blocks span together, as they stand; null where none of them can be set. */
export function spanOf(piece: PieceState, blocks: readonly number[]): Span | null {
  const spans = blocks.flatMap((at) => {
    const span = piece.drawings.blocks[at]?.span;
    return span ? [span] : [];
  });
  return spans.length ? unionOf(spans) : null;
}
