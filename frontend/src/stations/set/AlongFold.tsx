import type { LetteringBlock } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { NumberField, shown } from "../../fields/NumberField";
import { deskNow } from "../../live/desk";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";

/** What the words stand on, and how they bounce on it. */
export function AlongFold({ block, path }: { block: LetteringBlock; path: string }) {
  const edit = liveNow().edit;
  const take = deskNow().take;
  const { along, stagger } = block;
  const put = (at: string, value: unknown) => edit([{ op: "replace", path: `${path}/${at}`, value }]);
  const bounced = stagger.rise || stagger.turn ? ", staggered" : "";
  const summary = along.kind === "arc" ? `arc ${shown(along.bend)}°` : along.kind === "curve" ? "a drawn curve" : "straight";
  return (
    <Fold
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
        onChoose={(kind) => (kind === "curve" && !along.curve ? take("along") : put("along/kind", kind))}
      />
      {along.kind === "arc" && <NumberField field="Along.bend" path={`${path}/along/bend`} value={along.bend} />}
      {along.kind === "curve" && along.curve && (
        <>
          <NumberField field="Stroke.smoothing" path={`${path}/along/curve/smoothing`} value={along.curve.smoothing} />
          <TextAction onClick={() => take("along")}>Draw another curve</TextAction>
        </>
      )}
      {along.kind !== "line" && (
        <Tick label="Letters stay upright" on={along.upright} onChange={(on) => put("along/upright", on)} />
      )}
      <FieldsOf model="Stagger" path={`${path}/stagger`} values={stagger} without={bounced ? [] : ["by"]} />
    </Fold>
  );
}
