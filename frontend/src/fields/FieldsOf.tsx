import type { ColourSource, PlainField, VariedNumber } from "../api/client";
import { liveNow } from "../live/store";
import { useWorkshop } from "../live/workshop";
import { Columns, Ticks } from "../ui/Rows";
import { Select } from "../ui/Select";
import { TextAction } from "../ui/TextAction";
import { ChoiceField } from "./ChoiceField";
import { ColourField } from "./ColourField";
import type { LaidOver } from "./Layers";
import { NumberField } from "./NumberField";
import { SourceField } from "./SourceField";
import { TargetField } from "./TargetField";
import { TextField } from "./TextField";
import { TickField } from "./TickField";
import { VariedField } from "./VariedField";

interface Props {
  /** The model's name in the schema, such as `Metal`. */
  model: string;
  path: string;
  values: object;
  /** Only the fields that the schema puts into this group; those in none if it is not given. */
  group?: string;
  columns?: 2 | 3;
  /** Fields that the panel shows in its own way. */
  without?: readonly string[];
  /** What fields are called here in place of their own labels. */
  labels?: Readonly<Record<string, string>>;
  /** What the layers of its colours and numbers are laid over, if not a body. */
  over?: LaidOver | undefined;
}

/** Up to so many options stand beside their label; more have a row of their own. */
const BESIDE = 3;
/** Of more than so many only the chosen one is shown. */
const AT_ONCE = 6;

/**
 * The fields of a part of the document as its schema has them: texts and choices, colours, numbers, switches, each
 * with its label, and only where it has a meaning.
 */
export function FieldsOf({ model, path, values, group = "", columns = 2, without = [], labels, over }: Props) {
  const known = useWorkshop().models[model] ?? [];
  const held = values as Record<string, unknown>;
  const shown = known.filter((field) => field.group === group && !without.includes(field.name) && hasMeaning(field, held));
  const of = (kind: PlainField["kind"]) => shown.filter((field) => field.kind === kind);
  const numbers = of("number").filter(({ name }) => typeof held[name] === "number");
  const varied = of("number").filter(({ name, varies }) => varies && typeof held[name] === "object" && held[name]);
  const canVary = numbers.filter(({ varies }) => varies);
  const ticks = of("tick");
  return (
    <>
      {of("text").map(({ name, label }) => (
        <TextField key={name} label={label} path={`${path}/${name}`} value={String(held[name] ?? "")} />
      ))}
      {of("target").map(({ name, label }) => (
        <TargetField key={name} label={label} path={`${path}/${name}`} value={String(held[name])} />
      ))}
      {of("choice").map(({ name, label, options }) =>
        options.length > AT_ONCE ? (
          <Select
            key={name}
            label={label}
            value={String(held[name])}
            options={options}
            onChoose={(value) => liveNow().edit([{ op: "replace", path: `${path}/${name}`, value }])}
          />
        ) : (
          <ChoiceField
            key={name}
            label={label}
            hideLabel={options.length > BESIDE}
            path={`${path}/${name}`}
            value={String(held[name])}
            options={options}
          />
        ),
      )}
      {of("colour").map(({ name, label }) => (
        <ColourField key={name} label={labels?.[name] ?? label} path={`${path}/${name}`} value={String(held[name])} />
      ))}
      {of("source").map(({ name, label }) => (
        <SourceField
          key={name}
          label={label}
          path={`${path}/${name}`}
          value={held[name] as ColourSource}
          holderWith={(value) => ({ ...values, [name]: value })}
          over={over}
        />
      ))}
      {numbers.length > 0 && (
        <Columns of={columns}>
          {numbers.map(({ name }) => (
            <NumberField
              key={name}
              field={`${model}.${name}`}
              label={labels?.[name]}
              path={`${path}/${name}`}
              value={held[name] as number}
            />
          ))}
        </Columns>
      )}
      {canVary.length > 0 && (
        <p className="flex flex-wrap justify-end gap-x-3">
          {canVary.map(({ name, label }) => (
            <TextAction
              key={name}
              title={`Let ${label.toLowerCase()} follow the tones of a gradient, pattern or picture`}
              onClick={() => liveNow().edit([{ op: "replace", path: `${path}/${name}`, value: {} }])}
            >
              Vary {label.toLowerCase()}
            </TextAction>
          ))}
        </p>
      )}
      {varied.map(({ name, label, varies }) => (
        <VariedField
          key={name}
          label={label}
          model={varies}
          path={`${path}/${name}`}
          value={held[name] as VariedNumber}
          holderWith={(value) => ({ ...values, [name]: value })}
          over={over}
        />
      ))}
      {ticks.length > 0 && (
        <Ticks>
          {ticks.map(({ name, label }) => (
            <TickField key={name} label={label} path={`${path}/${name}`} on={held[name] === true} />
          ))}
        </Ticks>
      )}
    </>
  );
}

/** Whether a field has a meaning as the others stand. */
function hasMeaning({ when }: PlainField, held: Record<string, unknown>): boolean {
  return when.every(({ field, values }) => {
    const value = held[field] ?? null;
    return values === null ? value !== null && value !== 0 : values.includes(value);
  });
}
