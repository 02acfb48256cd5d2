import { Advice, Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { useBlock } from "../../live/store";
import { CanvasGroup } from "./CanvasGroup";
import { LetteringFields } from "./LetteringFields";
import { ShapeFields } from "./ShapeFields";
import { StrokesFields } from "./StrokesFields";

/** What is set: words, a shape or drawn strokes; where it stands; the canvas it stands on. */
export function SetStation() {
  const { block, path } = useBlock();
  return (
    <>
      {block.kind === "lettering" && <LetteringFields block={block} path={path} />}
      {block.kind === "shape" && <ShapeFields block={block} path={path} />}
      {block.kind === "strokes" && <StrokesFields block={block} path={path} />}
      {block.kind !== "lettering" && <Advice station="set" />}
      <Group title="Place">
        <div className="pair">
          <NumberField field="Place.x" path={`${path}/place/x`} value={block.place.x} />
          <NumberField field="Place.y" path={`${path}/place/y`} value={block.place.y} />
          <NumberField field="Place.z" path={`${path}/place/z`} value={block.place.z} />
        </div>
      </Group>
      <CanvasGroup />
    </>
  );
}
