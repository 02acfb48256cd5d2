import { shown } from "../../components/NumberField";
import { useDocument, useLive } from "../../live/store";

const [WIDTH, HEIGHT] = [286, 176];
const PAD = { left: 46, right: 40, top: 34, bottom: 34 };

/** The section through the thickest stroke, drawn to scale and dimensioned. */
export function SectionDrawing() {
  const section = useLive((live) => live.piece?.drawings.section);
  const { bevel, depth } = useDocument().blocks[0].form;
  if (!section) return <div className="drawing empty">No stroke to draw yet: type at least one letter.</div>;
  const deepest = Math.min(...section.outline.map(([, z]) => z));
  const scale = Math.min((WIDTH - PAD.left - PAD.right) / section.stroke, (HEIGHT - PAD.top - PAD.bottom) / -deepest);
  const middle = (WIDTH + PAD.left - PAD.right) / 2;
  const x = (across: number) => middle + across * scale;
  const y = (z: number) => PAD.top - z * scale;
  const half = section.stroke / 2;
  const path = `${section.outline.map(([across, z], i) => `${i ? "L" : "M"}${x(across).toFixed(1)} ${y(z).toFixed(1)}`).join("")}Z`;
  const wide = bevel.front && bevel.width > 0 && bevel.height > 0;
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Section: stroke ${shown(section.stroke)} px wide, ${shown(depth)} px deep`}
    >
      <defs>
        <pattern id="hatch" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="5" stroke="var(--ink-3)" strokeWidth=".8" />
        </pattern>
      </defs>
      <line className="axis-line" x1={16} x2={WIDTH - 16} y1={y(0)} y2={y(0)} />
      <path d={path} fill="url(#hatch)" stroke="var(--ink)" strokeWidth="1.5" />
      <Across from={x(-half)} to={x(half)} y={y(deepest) + 16} text={shown(section.stroke)} />
      <Down x={24} from={y(0)} to={y(deepest)} text={shown(-deepest)} />
      {wide && bevel.width < half && <Across accent from={x(half - bevel.width)} to={x(half)} y={16} text={shown(bevel.width)} />}
      {wide && bevel.width < half && <Down accent x={WIDTH - 26} from={y(0)} to={y(-bevel.height)} text={shown(bevel.height)} />}
    </svg>
  );
}

function Across({ from, to, y, text, accent }: { from: number; to: number; y: number; text: string; accent?: boolean }) {
  return (
    <g className={accent ? "dimension accent" : "dimension"}>
      <path d={`M${from} ${y}H${to}M${from} ${y - 4}v8M${to} ${y - 4}v8`} />
      <text x={(from + to) / 2} y={y - 3} textAnchor="middle">
        {text}
      </text>
    </g>
  );
}

function Down({ x, from, to, text, accent }: { x: number; from: number; to: number; text: string; accent?: boolean }) {
  return (
    <g className={accent ? "dimension accent" : "dimension"}>
      <path d={`M${x} ${from}V${to}M${x - 4} ${from}h8M${x - 4} ${to}h8`} />
      <text x={x + (accent ? 6 : -6)} y={(from + to) / 2 + 4} textAnchor={accent ? "start" : "end"}>
        {text}
      </text>
    </g>
  );
}
