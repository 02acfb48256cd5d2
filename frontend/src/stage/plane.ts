/** The face plane of a block against the canvas: the server's homography, there and back. */
import type { MouseEvent } from "react";

export type Point = readonly [number, number];

export function ontoCanvas(plane: readonly number[], [x, y]: Point): [number, number] {
  const w = plane[6] * x + plane[7] * y + plane[8];
  return [(plane[0] * x + plane[1] * y + plane[2]) / w, (plane[3] * x + plane[4] * y + plane[5]) / w];
}

export function ontoFace(plane: readonly number[], point: Point): [number, number] {
  return ontoCanvas(inverse(plane), point);
}

/** Where a pointer is, in px of the canvas from its top left. */
export function canvasPoint(event: MouseEvent<Element>): [number, number] {
  const frame = (event.currentTarget as SVGElement).ownerSVGElement as SVGSVGElement;
  const box = frame.getBoundingClientRect();
  const view = frame.viewBox.baseVal;
  return [
    view.x + ((event.clientX - box.left) / box.width) * view.width,
    view.y + ((event.clientY - box.top) / box.height) * view.height,
  ];
}

/** The corners of a box (left, bottom, right, top), from its lower left round to its upper left. */
export function cornersOf([left, bottom, right, top]: readonly [number, number, number, number]): [Point, Point, Point, Point] {
  return [
    [left, bottom],
    [right, bottom],
    [right, top],
    [left, top],
  ];
}

/** Points as the data of a closed path. */
export function closedPath(points: readonly Point[]): string {
  return `M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}Z`;
}

function inverse([a, b, c, d, e, f, g, h, i]: readonly number[]): number[] {
  const [A, B, C] = [e * i - f * h, c * h - b * i, b * f - c * e];
  const det = a * A + d * B + g * C;
  return [A, B, C, f * g - d * i, a * i - c * g, c * d - a * f, d * h - e * g, b * g - a * h, a * e - b * d].map((v) => v / det);
}
