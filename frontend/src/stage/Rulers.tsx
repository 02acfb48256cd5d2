import type { PieceState } from "../api/client";

const PER_INCH = { px: 0, mm: 25.4, in: 1, pt: 72 };
const LEAST_GAP_PX = 44;
const STEPS = [1, 2, 5];

/** Rulers along the top and the left of the picture, from its top left, in the canvas' own unit. */
export function Rulers({ piece, unit }: { piece: PieceState; unit: number }) {
  const { width, height, ppi, unit: measure } = piece.document.canvas;
  const perUnit = measure === "px" ? 1 : ppi / PER_INCH[measure];
  const step = niceStep((LEAST_GAP_PX * unit) / perUnit);
  const marks = (length: number) => Array.from({ length: Math.floor(length / perUnit / step) + 1 }, (_, i) => i * step);
  const text = (value: number) => String(Number(value.toFixed(3)));
  return (
    // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: a group of an svg does nothing by itself
    <g
      data-part="rulers"
      className="fill-ink-2 stroke-none tabular-nums"
      role="img"
      aria-label="Rulers"
      strokeWidth={unit}
      fontSize={9 * unit}
    >
      <rect className="fill-paper" x={0} y={-15 * unit} width={width} height={14 * unit} />
      <rect className="fill-paper" x={-15 * unit} y={0} width={14 * unit} height={height} />
      {marks(width).map((value) => (
        <g key={`x${value}`} transform={`translate(${value * perUnit} 0)`}>
          <path className="stroke-ink-2" d={`M0 ${-7 * unit}V${-unit}`} />
          <text x={2 * unit} y={-5 * unit}>
            {text(value)}
          </text>
        </g>
      ))}
      {marks(height).map((value) => (
        <g key={`y${value}`} transform={`translate(0 ${value * perUnit})`}>
          <path className="stroke-ink-2" d={`M${-7 * unit} 0H${-unit}`} />
          <text transform={`translate(${-12 * unit} ${2 * unit}) rotate(90)`}>{text(value)}</text>
        </g>
      ))}
    </g>
  );
}

/** The smallest of 1, 2, 5, 10, 20 … (or 0.5, 0.2 …) that is not under `least`. */
function niceStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  return (STEPS.find((step) => step * power >= least) ?? 10) * power;
}
