import type { PieceState } from "../api/client";

/** The guides of the canvas: middle, thirds and safe areas; the server says where. */
export function GuideLines({ piece, unit }: { piece: PieceState; unit: number }) {
  const { width, height } = piece.document.canvas;
  return (
    <g data-part="guides" className="fill-none" strokeWidth={unit}>
      {piece.drawings.guides.map(({ family, way, at }) => (
        <path
          key={`${family} ${way} ${at}`}
          className={family === "safe" ? "stroke-[#f0b49c]/85" : "stroke-sheet/75"}
          strokeDasharray={family === "thirds" ? `${4 * unit} ${4 * unit}` : undefined}
          d={way === "upright" ? `M${width / 2 + at} 0V${height}` : `M0 ${height / 2 - at}H${width}`}
        />
      ))}
    </g>
  );
}
