import { Advice } from "../../components/AdviceOf";
import { NumberField } from "../../fields/NumberField";
import { useBlock } from "../../live/store";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { BlocksGroup } from "./BlocksGroup";
import { CanvasGroup } from "./CanvasGroup";
import { LetteringFields } from "./LetteringFields";
import { MarkFields } from "./MarkFields";
import { ShapeFields } from "./ShapeFields";
import { StrokesFields } from "./StrokesFields";

/** What is set: words, a shape, drawn strokes or a mark; where it stands; the canvas it stands on. */
export function SetStation() {
  const { block, path } = useBlock();
  return (
    <>
      {block.kind === "lettering" && <LetteringFields block={block} path={path} />}
      {block.kind === "shape" && <ShapeFields block={block} path={path} />}
      {block.kind === "strokes" && <StrokesFields block={block} path={path} />}
      {block.kind === "mark" && <MarkFields block={block} path={path} />}
      {block.kind !== "lettering" && <Advice station="set" />}
      <Section
        title="Place"
        help="Position of the block, measured from the middle of the canvas, and its own turn on top of that of the whole piece."
      >
        <Columns>
          <NumberField field="Place.x" path={`${path}/place/x`} value={block.place.x} />
          <NumberField field="Place.y" path={`${path}/place/y`} value={block.place.y} />
          <NumberField field="Place.z" path={`${path}/place/z`} value={block.place.z} />
          {(["x", "y", "z"] as const).map((axis) => (
            <NumberField key={axis} field={`Turn.${axis}`} path={`${path}/place/turn/${axis}`} value={block.place.turn[axis]} />
          ))}
        </Columns>
      </Section>
      <BlocksGroup />
      <CanvasGroup />
    </>
  );
}
