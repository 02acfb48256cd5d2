import type { StrokesBlock } from "../../api/client";
import { NumberField } from "../../fields/NumberField";
import { TickField } from "../../fields/TickField";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { Actions } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";

/** Drawn strokes, one by one. Their points are moved on the stage. */
export function StrokesFields({ block, path }: { block: StrokesBlock; path: string }) {
  const edit = liveNow().edit;
  const tool = useDesk((desk) => desk.tool);
  const take = deskNow().take;
  return (
    <Section
      title="Strokes"
      actions={
        <Actions>
          <TextAction aria-pressed={tool === "pen"} onClick={() => take("pen")}>
            By points
          </TextAction>
          <TextAction aria-pressed={tool === "freehand"} onClick={() => take("freehand")}>
            Freehand
          </TextAction>
        </Actions>
      }
    >
      {block.form.kind !== "tube" && <NumberField field="Strokes.width" path={`${path}/width`} value={block.width} />}
      {block.strokes.map((stroke, i) => (
        <Entry
          key={i}
          title={`Stroke ${i + 1}`}
          measure={`${stroke.points.length} points`}
          onRemove={block.strokes.length > 1 ? () => edit([{ op: "remove", path: `${path}/strokes/${i}` }]) : undefined}
        >
          <NumberField field="Stroke.smoothing" path={`${path}/strokes/${i}/smoothing`} value={stroke.smoothing} />
          <TickField label="closed" path={`${path}/strokes/${i}/closed`} on={stroke.closed} />
        </Entry>
      ))}
    </Section>
  );
}
