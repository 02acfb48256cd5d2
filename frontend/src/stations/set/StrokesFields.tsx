import type { StrokesBlock } from "../../api/client";
import { Group } from "../../components/Group";
import { NumberField } from "../../components/NumberField";
import { Tick } from "../../components/Tick";
import { useDesk } from "../../live/desk";
import { useLive } from "../../live/store";

/** Drawn strokes, one by one. Their points are moved on the stage. */
export function StrokesFields({ block, path }: { block: StrokesBlock; path: string }) {
  const edit = useLive.getState().edit;
  const tool = useDesk((desk) => desk.tool);
  const take = useDesk.getState().take;
  return (
    <Group
      title="Strokes"
      actions={
        <span className="row-actions">
          <button type="button" className="text-action" aria-pressed={tool === "pen"} onClick={() => take("pen")}>
            By points
          </button>
          <button type="button" className="text-action" aria-pressed={tool === "freehand"} onClick={() => take("freehand")}>
            Freehand
          </button>
        </span>
      }
    >
      {block.form.kind !== "tube" && <NumberField field="Strokes.width" path={`${path}/width`} value={block.width} />}
      {block.strokes.map((stroke, i) => (
        <section key={i} className="sub" aria-label={`Stroke ${i + 1}`}>
          <header>
            <h4>
              Stroke {i + 1} <small>{stroke.points.length} points</small>
            </h4>
            {block.strokes.length > 1 && (
              <button
                type="button"
                className="text-action"
                onClick={() => edit([{ op: "remove", path: `${path}/strokes/${i}` }])}
              >
                Remove
              </button>
            )}
          </header>
          <NumberField field="Stroke.smoothing" path={`${path}/strokes/${i}/smoothing`} value={stroke.smoothing} />
          <Tick
            label="closed"
            on={stroke.closed}
            onChange={(on) => edit([{ op: "replace", path: `${path}/strokes/${i}/closed`, value: on }])}
          />
        </section>
      ))}
    </Group>
  );
}
