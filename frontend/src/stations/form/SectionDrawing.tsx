import type { BlockDrawing } from "../../api/client";
import { shown } from "../../fields/NumberField";
import { useBlock, useLive } from "../../live/store";
import { AxisLine, Caption, Dimension, Drawing, SHEET } from "../../ui/Drawing";
import { SectionHandle } from "./SectionHandle";

const [WIDTH, HEIGHT] = [286, 196];
const PAD = { left: 44, right: 34, top: 36, bottom: 50, between: 46 };

type Point = readonly [number, number];

function bounds(outlines: readonly (readonly Point[])[]) {
  const all = outlines.flat();
  const [across, depth] = [all.map(([x]) => x), all.map(([, z]) => z)];
  return { left: Math.min(...across), right: Math.max(...across), top: Math.max(...depth), bottom: Math.min(...depth) };
}

/** A section where it lies on the drawing. */
interface Laid {
  section: BlockDrawing["sections"][number];
  box: ReturnType<typeof bounds>;
  middle: number;
}

/** Sections through the thickest and the thinnest stroke, to one scale, dimensioned; depth and bevel are handled here. */
export function SectionDrawing() {
  const { block, path, index } = useBlock();
  const sections = useLive((live) => live.piece?.drawings.blocks[index]?.sections) ?? [];
  const { bevel, depth, kind, stands } = block.form;
  const boxes = sections.map((section) => bounds(section.pieces.map((piece) => piece.outline)));
  const wide = boxes.reduce((sum, box) => sum + box.right - box.left, 0);
  const deep = Math.max(...boxes.map((box) => box.top - box.bottom));
  const room = WIDTH - PAD.left - PAD.right - PAD.between * (sections.length - 1);
  const scale = Math.min(room / wide, (HEIGHT - PAD.top - PAD.bottom) / deep);
  const slack = (room - wide * scale) / sections.length;
  let from = PAD.left;
  const laid = sections.map((section): Laid => {
    const box = bounds(section.pieces.map((piece) => piece.outline));
    const middle = from + slack / 2 - box.left * scale;
    from += (box.right - box.left) * scale + slack + PAD.between;
    return { section, box, middle };
  });
  const [first] = laid;
  if (!first)
    return <div className={`${SHEET} px-6 py-12 text-center text-ink-3`}>Nothing to draw yet: type at least one letter.</div>;
  const y = (z: number) => PAD.top + (first.box.top - z) * scale;
  const plain = kind === "solid" && (stands === "free" || stands === "raised");
  const edged = plain && bevel.front && bevel.height > 0 && !bevel.cushion && !bevel.to_ridge && bevel.side === "inset";
  const half = first.section.stroke / 2;
  const fits = edged && bevel.width < half;
  const edge = first.middle + half * scale;
  return (
    <Drawing
      width={WIDTH}
      height={HEIGHT}
      role="group"
      aria-label={`Sections: ${sections.map((s) => `${s.mark} through ${s.letter}, ${shown(s.stroke)} px wide`).join("; ")}; ${shown(depth)} px deep`}
    >
      <defs>
        <pattern id="hatch" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="5" stroke="var(--color-ink-3)" strokeWidth=".8" />
        </pattern>
        <pattern id="hatch-back" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <line x1="0" y1="0" x2="0" y2="4" stroke="var(--color-rule-firm)" strokeWidth=".8" />
        </pattern>
      </defs>
      <AxisLine d={`M16 ${y(0)}H${WIDTH - 10}`} />
      {laid.map(({ section, box, middle }, i) => (
        <g key={section.mark}>
          {section.pieces.map(({ part, outline }, at) => (
            <path
              key={at}
              d={`${outline.map(([a, z], k) => `${k ? "L" : "M"}${(middle + a * scale).toFixed(1)} ${y(z).toFixed(1)}`).join("")}Z`}
              fill={part === "body" ? "url(#hatch)" : "url(#hatch-back)"}
              stroke="var(--color-ink)"
              strokeWidth={part === "body" ? 1.5 : 1}
            />
          ))}
          <Across
            from={middle - (section.stroke / 2) * scale}
            to={middle + (section.stroke / 2) * scale}
            y={y(box.bottom) + 14}
            text={shown(section.stroke)}
            below
          />
          <Caption x={middle} y={HEIGHT - 6} textAnchor="middle">
            {section.mark}–{section.mark} {i ? "thinnest" : "thickest"}, {section.letter}
          </Caption>
        </g>
      ))}
      {plain && <Down x={24} from={y(0)} to={y(-depth)} text={shown(depth)} />}
      {fits && <Across accent from={edge - bevel.width * scale} to={edge} y={18} text={shown(bevel.width)} />}
      {fits && <Down accent x={edge + 14} from={y(0)} to={y(-bevel.height)} text={shown(bevel.height)} />}
      {plain && (
        <SectionHandle
          label="Depth"
          least={0.5}
          x={first.middle}
          y={y(-depth)}
          value={depth}
          path={`${path}/form/depth`}
          scale={scale}
          way="down"
        />
      )}
      {fits && (
        <>
          <SectionHandle
            label="Bevel width"
            x={edge - bevel.width * scale}
            y={y(0)}
            value={bevel.width}
            path={`${path}/form/bevel/width`}
            scale={scale}
            way="left"
          />
          <SectionHandle
            label="Bevel height"
            x={edge}
            y={y(-bevel.height)}
            value={bevel.height}
            path={`${path}/form/bevel/height`}
            scale={scale}
            way="down"
          />
        </>
      )}
    </Drawing>
  );
}

interface Measure {
  from: number;
  to: number;
  text: string;
  accent?: boolean;
  below?: boolean;
}

function Across({ from, to, y, text, accent, below }: Measure & { y: number }) {
  const line = `M${from} ${y}H${to}M${from} ${y - 4}v8M${to} ${y - 4}v8`;
  return (
    <Dimension accent={accent} line={line} x={(from + to) / 2} y={below ? y + 13 : y - 3} anchor="middle">
      {text}
    </Dimension>
  );
}

function Down({ x, from, to, text, accent }: Measure & { x: number }) {
  const line = `M${x} ${from}V${to}M${x - 4} ${from}h8M${x - 4} ${to}h8`;
  return (
    <Dimension accent={accent} line={line} x={x + (accent ? 6 : -6)} y={(from + to) / 2 + 4} anchor={accent ? "start" : "end"}>
      {text}
    </Dimension>
  );
}
