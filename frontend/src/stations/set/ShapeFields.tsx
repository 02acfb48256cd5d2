import type { ShapeBlock } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { Section } from "../../ui/Section";

/** A plain shape and its measures. */
export function ShapeFields({ block, path }: { block: ShapeBlock; path: string }) {
  return (
    <Section title="Shape">
      <FieldsOf model="Shape" path={path} values={block} />
    </Section>
  );
}
