import { Advice } from "../../components/AdviceOf";
import { PointField } from "../../fields/PointField";
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
          <PointField model="Place" path={`${path}/place`} value={block.place} />
          <PointField model="Turn" path={`${path}/place/turn`} value={block.place.turn} />
        </Columns>
      </Section>
      <BlocksGroup />
      <CanvasGroup />
    </>
  );
}
