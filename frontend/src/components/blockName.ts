import type { Block } from "../api/client";

/** What a block is called: its words, or what it is. */
export function blockName(block: Block): string {
  if (block.kind === "lettering") return block.words.replace(/\s+/g, " ").trim().slice(0, 24) || "no words";
  if (block.kind === "mark") return block.name;
  return block.kind === "shape" ? block.shape : "drawn strokes";
}
