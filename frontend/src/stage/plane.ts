/** The face plane of a block against the canvas: the server's homography, there and back. */
import type { MouseEvent } from "react";

export type Point = readonly [number, number];
/** A 3 × 3 matrix, row by row. */
export type Plane = readonly [number, number, number, number, number, number, number, number, number];

/** left, bottom, right, top. */
export type Box = readonly [number, number, number, number];

export function ontoCanvas([a, b, c, d, e, f, g, h, i]: Plane, [x, y]: Point): [number, number] {
  const w = g * x + h * y + i;
  return [(a * x + b * y + c) / w, (d * x + e * y + f) / w];
}

export function ontoFace(plane: Plane, point: Point): [number, number] {
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

/** The corners of a box (left, bottom, right, top) on the canvas, from its lower left round to its upper left. */
export function cornersOf([left, bottom, right, top]: Box, plane: Plane): [Point, Point, Point, Point] {
  const corner = (x: number, y: number) => ontoCanvas(plane, [x, y]);
  return [corner(left, bottom), corner(right, bottom), corner(right, top), corner(left, top)];
}

/** Points as the data of a closed path. */
export function closedPath(points: readonly Point[]): string {
  return `M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}Z`;
}

function inverse([a, b, c, d, e, f, g, h, i]: Plane): Plane {
  const [A, B, C] = [e * i - f * h, c * h - b * i, b * f - c * e] as const;
  const by = 1 / (a * A + d * B + g * C);
  return [
    A * by,
    B * by,
    C * by,
    (f * g - d * i) * by,
    (a * i - c * g) * by,
    (c * d - a * f) * by,
    (d * h - e * g) * by,
    (b * g - a * h) * by,
    (a * e - b * d) * by,
  ];
}
