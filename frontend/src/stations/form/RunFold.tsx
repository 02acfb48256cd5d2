import type { Form } from "../../api/client";
import { NumberField } from "../../fields/NumberField";
import { liveNow, useDocument } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { Fold } from "../../ui/Fold";
import { Columns } from "../../ui/Rows";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";

/** The curve the letters are drawn along, point by point from the face. */
export function RunFold({ form, path }: { form: Form; path: string }) {
  const edit = liveNow().edit;
  const { blocks } = useDocument();
  const { run } = form;
  const at = `${path}/run`;
  const last = run.points[run.points.length - 1] ?? { x: 0, y: 0, z: 0 };
  const summary = run.points.length ? `${run.points.length} point${run.points.length > 1 ? "s" : ""}` : "straight";
  return (
    <Fold title="Run" help="Extrudes the letters backwards along a curve; they can grow or turn on the way." summary={summary}>
      {run.points.map((point, i) => (
        <Entry key={i} title={`Point ${i + 1}`} onRemove={() => edit([{ op: "remove", path: `${at}/points/${i}` }])}>
          <Columns of={3}>
            <NumberField field="RunPoint.x" path={`${at}/points/${i}/x`} value={point.x} />
            <NumberField field="RunPoint.y" path={`${at}/points/${i}/y`} value={point.y} />
            <NumberField field="RunPoint.z" path={`${at}/points/${i}/z`} value={point.z} />
          </Columns>
        </Entry>
      ))}
      <TextAction
        onClick={() => edit([{ op: "add", path: `${at}/points/-`, value: { x: last.x + 60, y: last.y + 30, z: last.z - 150 } }])}
      >
        Add a point
      </TextAction>
      {blocks
        .filter((block) => block.kind === "strokes")
        .map((block) => (
          <TextAction key={block.id} onClick={() => edit([{ op: "follow", path: path.replace(/\/form$/, ""), value: block.id }])}>
            Follow {block.id}
          </TextAction>
        ))}
      <Columns>
        <NumberField field="Run.scale" path={`${at}/scale`} value={run.scale} />
        <NumberField field="Run.turn" path={`${at}/turn`} value={run.turn} />
      </Columns>
      <Tick
        label="keep square to the curve"
        on={run.following}
        onChange={(on) => edit([{ op: "replace", path: `${at}/following`, value: on }])}
      />
    </Fold>
  );
}
