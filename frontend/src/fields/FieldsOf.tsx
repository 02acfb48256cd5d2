import { useWorkshop } from "../live/workshop";
import { Columns } from "../ui/Rows";
import { NumberField } from "./NumberField";

interface Props {
  /** The model's name in the schema, such as `Metal`. */
  model: string;
  path: string;
  values: object;
}

/** A number field for every number of a part of the document, in the order of its schema. */
export function FieldsOf({ model, path, values }: Props) {
  const fields = useWorkshop()?.fields ?? {};
  const held = values as Record<string, unknown>;
  const names = Object.keys(fields)
    .filter((field) => field.startsWith(`${model}.`))
    .map((field) => field.slice(model.length + 1))
    .filter((name) => typeof held[name] === "number");
  if (!names.length) return null;
  return (
    <Columns>
      {names.map((name) => (
        <NumberField key={name} field={`${model}.${name}`} path={`${path}/${name}`} value={held[name] as number} />
      ))}
    </Columns>
  );
}
