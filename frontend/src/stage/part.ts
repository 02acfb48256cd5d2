/** The part of the canvas that the stage shows: 1 / zoom as wide and high, its upper left at (left, top) of the canvas. */
export interface Part {
  zoom: number;
  left: number;
  top: number;
}

interface Size {
  width: number;
  height: number;
}

export const WHOLE: Part = { zoom: 1, left: 0, top: 0 };
const CLOSEST = 64;

/** The part of this zoom that keeps to the canvas, as near as it can to having (x, y) at this share of its width and height. */
function partAt(zoom: number, [x, y]: readonly [number, number], [u, v]: readonly [number, number], canvas: Size): Part {
  const near = Math.min(Math.max(zoom, 1), CLOSEST);
  const within = (at: number, share: number, side: number) =>
    Math.min(Math.max(at - (share * side) / near, 0), side - side / near);
  return { zoom: near, left: within(x, u, canvas.width), top: within(y, v, canvas.height) };
}

/** Zoomed by a factor, the point at this share of the stage staying where it is. */
export function zoomedAbout(part: Part, factor: number, share: readonly [number, number], canvas: Size): Part {
  const x = part.left + (share[0] * canvas.width) / part.zoom;
  const y = part.top + (share[1] * canvas.height) / part.zoom;
  return partAt(part.zoom * factor, [x, y], share, canvas);
}

/** Moved by a share of the stage. */
export function panned(part: Part, [u, v]: readonly [number, number], canvas: Size): Part {
  const left = part.left + (u * canvas.width) / part.zoom;
  const top = part.top + (v * canvas.height) / part.zoom;
  return partAt(part.zoom, [left, top], [0, 0], canvas);
}

/** The part that shows a box of the canvas (left, top, right, bottom) with some room around it. */
export function partAround([left, top, right, bottom]: readonly [number, number, number, number], canvas: Size): Part {
  const zoom = Math.min(canvas.width / Math.max(right - left, 1), canvas.height / Math.max(bottom - top, 1)) * 0.85;
  return partAt(zoom, [(left + right) / 2, (top + bottom) / 2], [0.5, 0.5], canvas);
}

/** Px of the screen to a px of the canvas, as the stage shows it. */
export function stageScale({ part, stage }: { part: Part; stage: Size }, canvas: Size): number {
  return part.zoom * Math.min(stage.width / canvas.width, stage.height / canvas.height);
}
