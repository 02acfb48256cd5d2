import type { Form } from "../../api/client";
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
        <TubeNumbers form={form} path={`${path}/tube`} />
      ) : (
        <Columns>
          {!cut && <NumberField field="Form.depth" path={`${path}/depth`} value={form.depth} />}
          {form.kind === "rim" && <NumberField field="Rim.width" path={`${path}/rim/width`} value={form.rim.width} />}
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
      {form.kind === "rim" && (
        <Choice
          label="Rim position"
          value={form.rim.side}
          options={["inside", "centred", "outside"]}
          onChoose={(side) => put("rim/side", side)}
        />
      )}
      <Choice
        label="Stands"
        value={form.stands}
        options={form.kind === "tube" ? ["free", "raised"] : ["free", "raised", "v-cut", "flat-cut"]}
        onChoose={(stands) => put("stands", stands)}
      />
    </Section>
  );
}

function TubeNumbers({ form: { tube }, path }: Props) {
  const edit = liveNow().edit;
  const put = (name: string, value: unknown) => edit([{ op: "replace", path: `${path}/${name}`, value }]);
  return (
    <>
      <Columns>
        <NumberField field="Tube.radius" path={`${path}/radius`} value={tube.radius} />
        <NumberField field="Tube.end_radius" path={`${path}/end_radius`} value={tube.end_radius} />
        <NumberField field="Tube.smoothing" path={`${path}/smoothing`} value={tube.smoothing} />
      </Columns>
      <Choice
        label="Section"
        value={tube.section}
        options={["round", "square", "half round"]}
        onChoose={(section) => put("section", section)}
      />
      <Choice label="Ends" value={tube.caps} options={["round", "flat"]} onChoose={(caps) => put("caps", caps)} />
    </>
  );
}
