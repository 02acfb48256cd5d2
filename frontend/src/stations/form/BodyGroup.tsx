import type { Form } from "../../api/client";
import { ChoiceField } from "../../fields/ChoiceField";
import { FieldsOf } from "../../fields/FieldsOf";
import { NumberField } from "../../fields/NumberField";
import { PointField } from "../../fields/PointField";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";

interface Props {
  form: Form;
  path: string;
}

/** Solid, rim or tube; free, on a slab or cut into it; and the numbers of each. */
export function BodyGroup({ form, path }: Props) {
  const cut = form.stands === "v-cut" || form.stands === "flat-cut";
  return (
    <Section
      title="Body"
      help="Solid letters, rims along their outlines, or tubes along their strokes. They stand free, are raised on a slab, or are cut into it. Depth runs from face to back."
      actions={
        <ChoiceField
          label="Body"
          hideLabel
          path={`${path}/kind`}
          value={form.kind}
          options={cut ? ["solid", "rim"] : ["solid", "rim", "tube"]}
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
              <PointField model="Drift" path={`${path}/drift`} value={form.drift} />
            </>
          )}
          {!cut && form.taper.amount !== 0 && <PointField model="Taper" path={`${path}/taper`} value={form.taper} />}
        </Columns>
      )}
      {form.kind === "rim" && <FieldsOf model="Rim" path={`${path}/rim`} values={form.rim} />}
      <ChoiceField
        label="Stands"
        path={`${path}/stands`}
        value={form.stands}
        options={form.kind === "tube" ? ["free", "raised"] : ["free", "raised", "v-cut", "flat-cut"]}
      />
    </Section>
  );
}
