import type { Form } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { liveNow, useDocument } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { FoldingSection } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";

/** The curve the letters are drawn along, point by point from the face. */
export function Run({ form, path }: { form: Form; path: string }) {
  const edit = liveNow().edit;
  const { blocks } = useDocument();
  const { run } = form;
  const at = `${path}/run`;
  const last = run.points[run.points.length - 1] ?? { x: 0, y: 0, z: 0 };
  const summary = run.points.length ? `${run.points.length} point${run.points.length > 1 ? "s" : ""}` : "straight";
  return (
    <FoldingSection
      title="Run"
      help="Extrudes the letters backwards along a curve; they can grow or turn on the way."
      summary={summary}
    >
      {run.points.map((point, i) => (
        <Entry key={i} title={`Point ${i + 1}`} onRemove={() => edit([{ op: "remove", path: `${at}/points/${i}` }])}>
          <FieldsOf model="RunPoint" path={`${at}/points/${i}`} values={point} columns={3} />
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
      <FieldsOf model="Run" path={at} values={run} />
    </FoldingSection>
  );
}
