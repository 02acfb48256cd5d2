/** Acts of the hand on blocks, in one place for menus, lists, keys and the list of commands. */
import { useSyncExternalStore } from "react";
import { api, type Block, type Edit } from "../api/client";
import { contextNow } from "../commands/command";
import { deskNow } from "../live/desk";
import { liveNow } from "../live/store";
import { unitsOf } from "../stage/units";
import { freshId } from "./freshId";

const COPY_STEP_PX = 40;
/** What a copied block is called on the clipboard. */
const CLIP = "halvex-block";

type Here = NonNullable<ReturnType<typeof here>>;

function here() {
  const now = contextNow();
  return now && { ...now, blocks: now.piece.document.blocks, index: now.picked[0] };
}

/** An act on what is picked, done once the window has heard of the acts before it. */
export function act<Given extends unknown[]>(run: (now: Here, ...given: Given) => void) {
  return (...given: Given) =>
    liveNow().afterAll(() => {
      const now = here();
      if (now) run(now, ...given);
    });
}

const edit = (edits: Edit[]) => edits.length && liveNow().edit(edits);
const idsOf = ({ blocks }: Here, at: readonly number[]) => at.flatMap((index) => blocks[index]?.id ?? []);
const pickedBlocks = ({ blocks, picked }: Here) => picked.flatMap((at) => blocks[at] ?? []);
const path = (at: number, rest = "") => `/blocks/${at}${rest}`;

export const addBlock = act((now, value: object, name: string) => {
  edit([{ op: "add", path: "/blocks/-", value: { ...value, id: freshId(name, now.blocks) } }]);
  deskNow().openBlock(now.blocks.length);
});

export function draw(tool: "pen" | "freehand") {
  const { openStation, take } = deskNow();
  openStation("set");
  take(tool);
}

/** The next stroke is drawn over the open block, which then becomes a guide. */
export function traceBlock() {
  deskNow().trace(true);
  draw("pen");
}

/** Copies stand a little below and to the right, so that both are seen. */
export const duplicateBlocks = act((now) => {
  let taken: { id: string }[] = [...now.blocks];
  const edits = pickedBlocks(now).map((block) => {
    const id = freshId(block.kind, taken);
    taken = [...taken, { id }];
    const place = { ...block.place, x: block.place.x + COPY_STEP_PX, y: block.place.y - COPY_STEP_PX };
    return { op: "add" as const, path: "/blocks/-", value: { ...block, id, place, locked: false } };
  });
  edit(edits);
  deskNow().openBlock(now.blocks.length);
});

export const removeBlocks = act((now) => {
  if (now.picked.length >= now.blocks.length) return;
  edit([...now.picked].sort((a, b) => b - a).map((at) => ({ op: "remove" as const, path: path(at) })));
  deskNow().openBlock(0);
});

/** Sets a switch of every picked block: hidden, locked, guide. */
export const switchBlocks = act((now, name: "hidden" | "locked" | "guide", on: boolean) => {
  edit(now.picked.map((at) => ({ op: "replace" as const, path: path(at, `/${name}`), value: on })));
});

export const groupBlocks = act((now, together: boolean) => {
  // Out of a group goes the whole of it.
  const blocks = together ? now.picked : unitsOf(now.piece, now.picked).all;
  edit([{ op: "group", path: "/blocks", value: { blocks: idsOf(now, blocks), together } }]);
});

/** Moves the open block by a step in the list. */
export const reorder = act((now, step: 1 | -1) => {
  const to = now.index + step;
  if (to < 0 || to >= now.blocks.length) return;
  edit([{ op: "reorder", path: path(now.index), value: to }]);
  deskNow().openBlock(to);
});

export type How = "left" | "centre" | "right" | "top" | "middle" | "bottom" | "spread across" | "spread up";

export const arrange = act((now, how: How, to: "canvas" | "each other") => {
  edit([{ op: "arrange", path: "/blocks", value: { blocks: idsOf(now, now.picked), how, to } }]);
});

/** Into the exact middle of the canvas, in one gesture. */
export const centre = act((now) => {
  const blocks = idsOf(now, now.picked);
  edit(
    (["centre", "middle"] as const).map((how) => ({
      op: "arrange" as const,
      path: "/blocks",
      value: { blocks, how, to: "canvas" },
    })),
  );
});

const unlocked = ({ blocks }: Here, among: readonly number[]) => among.filter((at) => !blocks[at]?.locked);

export const giveLookToAll = act((now) => {
  const others = now.blocks.map((_, at) => at).filter((at) => at !== now.index);
  edit(unlocked(now, others).map((at) => ({ op: "look" as const, path: path(at), value: now.block.id })));
});

/** What was copied last: kept where the other windows of this browser find it too. */
function clip(): Block[] {
  try {
    return JSON.parse(localStorage.getItem(CLIP) ?? "[]") as Block[];
  } catch {
    return [];
  }
}

const clipWatchers = new Set<() => void>();

/** Whether there is anything to paste, from this window or another. */
export const hasClip = () => clip().length > 0;

export function useHasClip(): boolean {
  return useSyncExternalStore(watchClip, hasClip);
}

function watchClip(heard: () => void) {
  clipWatchers.add(heard);
  window.addEventListener("storage", heard);
  return () => {
    clipWatchers.delete(heard);
    window.removeEventListener("storage", heard);
  };
}

export const copyBlocks = act((now) => {
  localStorage.setItem(CLIP, JSON.stringify(pickedBlocks(now)));
  for (const heard of clipWatchers) heard();
});

export const pasteBlocks = act((now) => {
  let taken: { id: string }[] = [...now.blocks];
  const edits = clip().map((block) => {
    const id = freshId(block.kind, taken);
    taken = [...taken, { id }];
    return { op: "add" as const, path: "/blocks/-", value: { ...block, id, group: "", locked: false } };
  });
  edit(edits);
  if (edits.length) deskNow().openBlock(now.blocks.length);
});

export const pasteLook = act((now) => {
  const copied = clip()[0];
  if (copied) edit(unlocked(now, now.picked).map((at) => ({ op: "look" as const, path: path(at), value: copied })));
});

/** Lays a picture over the face of the open block, above what is there. */
export async function layPicture(file: File) {
  const { id } = await api.keepPicture(file);
  deskNow().openStation("surface");
  coverFace(id);
}

const coverFace = act((now, picture: string) => {
  edit([{ op: "cover", path: path(now.index), value: picture }]);
});

export async function bringMark(file: File) {
  const now = here();
  if (!now) return;
  await api.bringMark(now.piece.id, file);
  deskNow().openStation("set");
  deskNow().openBlock(now.blocks.length);
}
