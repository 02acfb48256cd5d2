import { useDesk } from "../live/desk";
import { useBlock, useLive } from "../live/store";
import { BlockFrames } from "./BlockFrames";
import { DrawingTool } from "./DrawingTool";
import { GuideLines } from "./GuideLines";
import { GuideOutline } from "./GuideOutline";
import { HighlightTool } from "./HighlightTool";
import { LetterTool } from "./LetterTool";
import { PointHandles } from "./PointHandles";
import { closedPath, cornersOf, ontoCanvas, type Point } from "./plane";
import { Rulers } from "./Rulers";

const BEYOND_PX = 34;

/** Over the picture while its station is open: section marks, points to move, the line being drawn. */
export function StageMarks() {
  const piece = useLive((live) => live.piece);
  const station = useDesk((desk) => desk.station);
  const tool = useDesk((desk) => desk.tool);
  const { guides, rulers, part } = useDesk();
  const { block, path, index } = useBlock();
  const drawing = piece?.drawings.blocks[index];
  if (!piece || !drawing) return null;
  const { width, height } = piece.document.canvas;
  const { plane } = drawing;
  const unit = width / part.zoom / 928;
  return (
    <svg
      data-part="marks"
      className={`pointer-events-none aspect-(--shape) w-[min(100cqw,100cqh*var(--shape))] overflow-visible ${tool && tool !== "letters" ? "drawing-now" : ""}`}
      viewBox={`${part.left} ${part.top} ${width / part.zoom} ${height / part.zoom}`}
      role="group"
      aria-label="Marks on the stage"
      data-revision={piece.revision}
    >
      {station === "form" &&
        !tool &&
        drawing.sections.map((section) => {
          const reach = section.stroke / 2 + BEYOND_PX;
          const ends = [-1, 1].map(
            (side): Point => [section.x + side * section.across[0] * reach, section.y + side * section.across[1] * reach],
          );
          const [a, b] = ends.map((end) => ontoCanvas(plane, end));
          return (
            <g key={section.mark} className="cutting-mark" style={{ "--unit": `${unit}px` } as React.CSSProperties}>
              <path d={`M${a[0]} ${a[1]}L${b[0]} ${b[1]}`} />
              {[a, b].map(([x, y]) => (
                <g key={x} transform={`translate(${x} ${y}) scale(${unit})`}>
                  <rect x={-9} y={-9} width={18} height={18} />
                  <text y={4} textAnchor="middle">
                    {section.mark}
                  </text>
                </g>
              ))}
            </g>
          );
        })}
      {station === "form" &&
        !tool &&
        block.form.kerfs.map((kerf, i) => (
          <PointHandles
            key={i}
            name={`Kerf ${i + 1}`}
            points={kerf.points}
            path={`${path}/form/kerfs/${i}/points`}
            plane={plane}
            unit={unit}
          />
        ))}
      {rulers && <Rulers piece={piece} unit={unit} />}
      {guides && <GuideLines piece={piece} unit={unit} />}
      {piece.drawings.blocks.map(
        (entry, at) =>
          entry.outline.length > 0 && <GuideOutline key={piece.document.blocks[at].id} drawing={entry} unit={unit} />,
      )}
      {(station === "set" || station === "form") &&
        piece.drawings.advice.map(
          (entry) =>
            entry.block === index &&
            drawing.letters
              .filter(({ letter }) => entry.letters.includes(letter))
              .map(({ letter, box }) => (
                <path
                  key={`${entry.text} ${letter}`}
                  className="colliding"
                  d={closedPath(cornersOf(box).map((corner) => ontoCanvas(plane, corner)))}
                  strokeWidth={1.5 * unit}
                />
              )),
        )}
      {station === "set" && !tool && <BlockFrames piece={piece} unit={unit} />}
      {station === "set" && tool === "letters" && block.kind === "lettering" && (
        <LetterTool block={block} path={path} drawing={drawing} unit={unit} />
      )}
      {station === "set" && !tool && block.kind === "lettering" && block.along.kind === "curve" && block.along.curve && (
        <PointHandles
          name="Curve"
          points={block.along.curve.points}
          path={`${path}/along/curve/points`}
          plane={plane}
          unit={unit}
          curved
        />
      )}
      {station === "set" &&
        !tool &&
        block.kind === "strokes" &&
        block.strokes.map((stroke, i) => (
          <PointHandles
            key={i}
            name={`Stroke ${i + 1}`}
            points={stroke.points}
            path={`${path}/strokes/${i}/points`}
            plane={plane}
            unit={unit}
            curved
          />
        ))}
      {tool === "highlight" && <HighlightTool width={width} height={height} />}
      {tool && tool !== "highlight" && tool !== "letters" && (
        <DrawingTool key={tool} tool={tool} plane={plane} width={width} height={height} />
      )}
    </svg>
  );
}
