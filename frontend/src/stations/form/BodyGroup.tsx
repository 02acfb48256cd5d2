import type { Form } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { NumberField } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";

interface Props {
  form: Form;
  path: string;
}

/** Solid, rim or tube; free, on a slab or cut into it; and the numbers of each. */
export function BodyGroup({ form, path }: Props) {
  const edit = liveNow().edit;
  const put = (name: string, value: unknown) => edit([{ op: "replace", path: `${path}/${name}`, value }]);
  const cut = form.stands === "v-cut" || form.stands === "flat-cut";
  return (
    <Section
      title="Body"
      help="Solid letters, rims along their outlines, or tubes along their strokes. They stand free, are raised on a slab, or are cut into it. Depth runs from face to back."
      actions={
        <Choice
          label="Body"
          hideLabel
          value={form.kind}
          options={cut ? ["solid", "rim"] : ["solid", "rim", "tube"]}
          onChoose={(kind) => put("kind", kind)}
        />
      }
    >
      {form.kind === "tube" ? (
        <FieldsOf model="Tube" path={`${path}/tube`} values={form.tube} />
      ) : (
        <Columns>
          {!cut && <NumberField field="Form.depth" path={`${path}/depth`} value={form.depth} />}
          {!cut && (
            <>
              <NumberField field="Taper.amount" path={`${path}/taper/amount`} value={form.taper.amount} />
              <NumberField field="Drift.x" path={`${path}/drift/x`} value={form.drift.x} />
              <NumberField field="Drift.y" path={`${path}/drift/y`} value={form.drift.y} />
            </>
          )}
          {!cut && form.taper.amount !== 0 && (
            <>
              <NumberField field="Taper.x" path={`${path}/taper/x`} value={form.taper.x} />
              <NumberField field="Taper.y" path={`${path}/taper/y`} value={form.taper.y} />
            </>
          )}
        </Columns>
      )}
      {form.kind === "rim" && <FieldsOf model="Rim" path={`${path}/rim`} values={form.rim} />}
      <Choice
        label="Stands"
        value={form.stands}
        options={form.kind === "tube" ? ["free", "raised"] : ["free", "raised", "v-cut", "flat-cut"]}
        onChoose={(stands) => put("stands", stands)}
      />
    </Section>
  );
}
