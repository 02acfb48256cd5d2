import type { Form } from "../../api/client";
import { NumberField, shown } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Choice } from "../../ui/Choice";
import { Entry } from "../../ui/Entry";
import { Fold } from "../../ui/Fold";
import { Columns } from "../../ui/Rows";
import { TextAction } from "../../ui/TextAction";
import { Tick } from "../../ui/Tick";
import { BevelGroup } from "./BevelGroup";

/** Each new plate reaches this much further out than the one before. */
const FURTHER_PX = 16;

/** Plates behind the letters, the nearest first. */
export function PlatesFold({ form, path }: { form: Form; path: string }) {
  const edit = liveNow().edit;
  const { plates } = form;
  const put = (at: number, name: string, value: unknown) =>
    edit([{ op: "replace", path: `${path}/plates/${at}/${name}`, value }]);
  const last = plates[plates.length - 1];
  const summary =
    plates.length === 1
      ? `${shown(plates[0].distance)} px out, ${shown(plates[0].depth)} thick`
      : plates.length
        ? `${plates.length} plates`
        : "none";
  return (
    <Fold title="Plates" help="Bodies behind the letters that follow their outline at a set distance." summary={summary}>
      {plates.map((plate, at) => (
        <Entry key={at} title={`Plate ${at + 1}`} onRemove={() => edit([{ op: "remove", path: `${path}/plates/${at}` }])}>
          <Columns>
            <NumberField field="Plate.distance" path={`${path}/plates/${at}/distance`} value={plate.distance} />
            <NumberField field="Plate.depth" path={`${path}/plates/${at}/depth`} value={plate.depth} />
            <NumberField field="Plate.gap" path={`${path}/plates/${at}/gap`} value={plate.gap} />
          </Columns>
          <Choice label="Corners" value={plate.join} options={["round", "mitred"]} onChoose={(join) => put(at, "join", join)} />
          <Tick label="close the counters" on={plate.close_holes} onChange={(on) => put(at, "close_holes", on)} />
          <BevelGroup title={`Bevel of plate ${at + 1}`} bevel={plate.bevel} path={`${path}/plates/${at}/bevel`} />
        </Entry>
      ))}
      <TextAction
        onClick={() =>
          edit([{ op: "add", path: `${path}/plates/-`, value: last ? { ...last, distance: last.distance + FURTHER_PX } : {} }])
        }
      >
        Add a plate
      </TextAction>
    </Fold>
  );
}
