import type { ShapeBlock } from "../../api/client";
import { NumberField } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";

/** A plain shape and its measures. */
export function ShapeFields({ block, path }: { block: ShapeBlock; path: string }) {
  const edit = liveNow().edit;
  const sided = block.shape === "polygon" || block.shape === "star";
  return (
    <Section title="Shape">
      <Choice
        label="Shape"
        hideLabel
        value={block.shape}
        options={["rectangle", "ellipse", "polygon", "star"]}
        onChoose={(shape) => edit([{ op: "replace", path: `${path}/shape`, value: shape }])}
      />
      <Columns>
        <NumberField field="Shape.width" path={`${path}/width`} value={block.width} />
        <NumberField field="Shape.height" path={`${path}/height`} value={block.height} />
        {block.shape !== "ellipse" && (
          <NumberField field="Shape.corner_radius" path={`${path}/corner_radius`} value={block.corner_radius} />
        )}
        {sided && <NumberField field="Shape.sides" path={`${path}/sides`} value={block.sides} />}
        {block.shape === "star" && <NumberField field="Shape.inner" path={`${path}/inner`} value={block.inner} />}
      </Columns>
    </Section>
  );
}
