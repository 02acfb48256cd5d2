import type { Mesh, PieceState } from "../api/client";
import { useDesk } from "../live/desk";
import { useBlock, useLive } from "../live/store";
import { GuideLines } from "./GuideLines";
import { GuideOutline } from "./GuideOutline";
import { closedPath, cornersOf } from "./plane";
import { Rulers } from "./Rulers";
import { SectionMarks } from "./SectionMarks";
import { BlockFrames } from "./tools/BlockFrames";
import { EffectHandles } from "./tools/EffectHandles";
import { GradientLines } from "./tools/GradientLines";
import { LetterTool } from "./tools/LetterTool";
import { MeshPoints } from "./tools/MeshPoints";
import { PointHandles } from "./tools/PointHandles";
import { ToolInHand } from "./tools/ToolInHand";

/** The stage's marks are drawn for a picture this many px wide. */
const USUAL_WIDTH = 928;

/** Over the picture while its station is open: section marks, points to move, the tool in hand. */
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
  const unit = width / part.zoom / USUAL_WIDTH;
  const line = block.kind === "lettering" && block.along.kind === "curve" ? block.along.curve : null;
  return (
    <svg
      data-part="marks"
      className="pointer-events-none aspect-(--shape) w-[min(100cqw,100cqh*var(--shape))] overflow-visible"
      viewBox={`${part.left} ${part.top} ${width / part.zoom} ${height / part.zoom}`}
      role="group"
      aria-label="Marks on the stage"
      data-revision={piece.revision}
    >
      {station === "form" && !tool && <SectionMarks drawing={drawing} unit={unit} />}
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
      {station === "surface" && <GradientLines drawing={drawing} unit={unit} />}
      {station === "backdrop" && (
        <>
          <GradientLines drawing={piece.drawings.backdrop} unit={unit} />
          {meshesOf(piece).map(([path, mesh]) => (
            <MeshPoints key={path} mesh={mesh} path={path} drawing={piece.drawings.backdrop} unit={unit} />
          ))}
        </>
      )}
      {station === "finish" && !tool && <EffectHandles piece={piece} unit={unit} />}
      {rulers && <Rulers piece={piece} unit={unit} />}
      {guides && <GuideLines piece={piece} unit={unit} />}
      {piece.drawings.blocks.map(
        (entry, at) =>
          entry.outline.length > 0 && <GuideOutline key={piece.document.blocks[at]?.id} drawing={entry} unit={unit} />,
      )}
      {(station === "set" || station === "form") &&
        piece.drawings.advice.map(
          (entry) =>
            entry.block === index &&
            drawing.letters.map(
              ({ letter, box }) =>
                box &&
                entry.letters.includes(letter) && (
                  <path
                    key={`${entry.text} ${letter}`}
                    data-part="colliding"
                    className="fill-none stroke-[#ffb3a6] [stroke-dasharray:6_4]"
                    d={closedPath(cornersOf(box, plane))}
                    strokeWidth={1.5 * unit}
                  />
                ),
            ),
        )}
      {station === "set" && !tool && <BlockFrames piece={piece} unit={unit} />}
      {station === "set" && tool === "letters" && block.kind === "lettering" && (
        <LetterTool block={block} path={path} drawing={drawing} unit={unit} />
      )}
      {station === "set" && !tool && line && (
        <PointHandles name="Curve" points={line.points} path={`${path}/along/curve/points`} plane={plane} unit={unit} curved />
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
      {tool && tool !== "letters" && (
        <ToolInHand key={tool} tool={tool} plane={plane} width={width} height={height} unit={unit} />
      )}
    </svg>
  );
}

/** The meshes of the backdrop by their pointers: /backdrop/…/layers/N. */
function meshesOf({ document, drawings }: PieceState): [string, Mesh][] {
  const { colour, material } = document.backdrop;
  const own = material && "colour" in material ? material.colour : material?.tint;
  return drawings.backdrop.meshes.flatMap((path) => {
    const source = path.startsWith("/backdrop/colour") ? colour : own;
    const layer = typeof source === "object" ? source.layers[Number(path.split("/").at(-1))] : undefined;
    return layer?.kind === "mesh" ? [[path, layer] as [string, Mesh]] : [];
  });
}
