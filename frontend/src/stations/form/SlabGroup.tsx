import type { Form } from "../../api/client";
import { ChoiceField } from "../../fields/ChoiceField";
import { NumberField, shown } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Columns } from "../../ui/Rows";
import { FoldingSection, Section } from "../../ui/Section";
import { BevelGroup } from "./BevelGroup";

/** A first size for a slab that is given its own. */
const OWN_SIZE = { width: 900, height: 400 };

/** The slab, and the cut into it where letters are incised. */
export function SlabGroup({ form, path }: { form: Form; path: string }) {
  const edit = liveNow().edit;
  const { slab, incision } = form;
  const own = slab.width !== null && slab.height !== null;
  return (
    <Section title={form.stands === "raised" ? "Slab" : "Cut and slab"}>
      {form.stands === "v-cut" && (
        <ChoiceField label="Set by" path={`${path}/incision/by`} value={incision.by} options={["angle", "depth"]} />
      )}
      <Columns>
        {form.stands === "v-cut" && incision.by === "angle" && (
          <NumberField field="Incision.angle" path={`${path}/incision/angle`} value={incision.angle} />
        )}
        {(form.stands === "flat-cut" || (form.stands === "v-cut" && incision.by === "depth")) && (
          <NumberField field="Incision.depth" path={`${path}/incision/depth`} value={incision.depth} />
        )}
        <NumberField field="Slab.depth" path={`${path}/slab/depth`} value={slab.depth} />
        <NumberField field="Slab.corner_radius" path={`${path}/slab/corner_radius`} value={slab.corner_radius} />
        {!own && <NumberField field="Slab.margin" path={`${path}/slab/margin`} value={slab.margin} />}
        {slab.width !== null && <NumberField field="Slab.width" path={`${path}/slab/width`} value={slab.width} />}
        {slab.height !== null && <NumberField field="Slab.height" path={`${path}/slab/height`} value={slab.height} />}
      </Columns>
      <Choice
        label="Size"
        value={own ? "its own" : "by margin"}
        options={["by margin", "its own"]}
        onChoose={(choice) => {
          const value = { ...slab, ...(choice === "its own" ? OWN_SIZE : { width: null, height: null }) };
          edit([{ op: "replace", path: `${path}/slab`, value }]);
        }}
      />
      <FoldingSection
        title="Edge of the slab"
        summary={`${slab.bevel.profile} ${shown(slab.bevel.width)} × ${shown(slab.bevel.height)}`}
      >
        <BevelGroup title="Slab bevel" bevel={slab.bevel} path={`${path}/slab/bevel`} />
      </FoldingSection>
    </Section>
  );
}
