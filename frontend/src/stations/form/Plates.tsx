import type { Form } from "../../api/client";
import { FieldsOf } from "../../fields/FieldsOf";
import { shown } from "../../fields/NumberField";
import { liveNow } from "../../live/store";
import { Entry } from "../../ui/Entry";
import { FoldingSection } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { BevelGroup } from "./BevelGroup";

/** Each new plate reaches this much further out than the one before. */
const FURTHER_PX = 16;

/** Plates behind the letters, the nearest first. */
export function Plates({ form, path }: { form: Form; path: string }) {
  const edit = liveNow().edit;
  const { plates } = form;
  const last = plates[plates.length - 1];
  const summary =
    plates.length === 1 && last
      ? `${shown(last.distance)} px out, ${shown(last.depth)} thick`
      : plates.length
        ? `${plates.length} plates`
        : "none";
  return (
    <FoldingSection
      title="Plates"
      help="Bodies behind the letters that follow their outline at a set distance."
      summary={summary}
    >
      {plates.map((plate, at) => (
        <Entry key={at} title={`Plate ${at + 1}`} onRemove={() => edit([{ op: "remove", path: `${path}/plates/${at}` }])}>
          <FieldsOf model="Plate" path={`${path}/plates/${at}`} values={plate} />
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
    </FoldingSection>
  );
}
