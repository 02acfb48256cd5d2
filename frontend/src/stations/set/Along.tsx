import type { LetteringBlock } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { NumberField, shown } from "../../fields/NumberField";
import { TickField } from "../../fields/TickField";
import { deskNow } from "../../live/desk";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { FoldingSection } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";

/** What the words stand on, and how they bounce on it. */
export function Along({ block, path }: { block: LetteringBlock; path: string }) {
  const edit = liveNow().edit;
  const take = deskNow().take;
  const { along, stagger } = block;
  const bounced = stagger.rise || stagger.turn ? ", staggered" : "";
  const summary = along.kind === "arc" ? `arc ${shown(along.bend)}°` : along.kind === "curve" ? "a drawn curve" : "straight";
  return (
    <FoldingSection
      title="Line"
      summary={`${summary}${bounced}`}
      help="Sets the words on a straight line, an arc, or a curve you draw. Stagger moves letters off the line, alternately or at random."
    >
      <Choice
        label="On"
        value={along.kind}
        options={[
          { value: "line", show: "a line" },
          { value: "arc", show: "an arc" },
          { value: "curve", show: "a curve" },
        ]}
        onChoose={(kind) => {
          if (kind === "curve" && !along.curve) take("along");
          else edit([{ op: "replace", path: `${path}/along/kind`, value: kind }]);
        }}
      />
      {along.kind === "arc" && <NumberField field="Along.bend" path={`${path}/along/bend`} value={along.bend} />}
      {along.kind === "curve" && along.curve && (
        <>
          <NumberField field="Stroke.smoothing" path={`${path}/along/curve/smoothing`} value={along.curve.smoothing} />
          <TextAction onClick={() => take("along")}>Draw another curve</TextAction>
        </>
      )}
      {along.kind !== "line" && <TickField label="Letters stay upright" path={`${path}/along/upright`} on={along.upright} />}
      <FieldsOf model="Stagger" path={`${path}/stagger`} values={stagger} without={bounced ? [] : ["by"]} />
    </FoldingSection>
  );
}
