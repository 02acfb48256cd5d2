import type { ColourSource, Gradient } from "../api/client";
import { liveNow } from "../live/store";
import { Section } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { ColourField } from "./ColourField";
import { FieldsOf } from "./FieldsOf";
import { GradientBar } from "./GradientBar";

/** A colour that may have gradients over it, each with its bar, its stops and its numbers. */
export function SourceField({ label, path, value }: { label: string; path: string; value: ColourSource }) {
  const edit = liveNow().edit;
  if (typeof value === "string") {
    return (
      <>
        <ColourField label={label} path={path} value={value} />
        <p className="text-right">
          <TextAction
            onClick={() => edit([{ op: "replace", path, value: { base: value, layers: [{ stops: stopsFrom(value) }] } }])}
          >
            Add gradient
          </TextAction>
        </p>
      </>
    );
  }
  const { base, layers } = value;
  const remove = (index: number) =>
    edit([layers.length === 1 ? { op: "replace", path, value: base } : { op: "remove", path: `${path}/layers/${index}` }]);
  const raise = (index: number) => {
    const order = [...layers];
    order.splice(index + 1, 0, ...order.splice(index, 1));
    edit([{ op: "replace", path: `${path}/layers`, value: order }]);
  };
  // The top layer comes first, as it lies.
  const shown = layers.map((layer, index) => ({ layer, index })).reverse();
  return (
    <>
      {shown.map(({ layer, index }) => (
        <Section
          key={index}
          title={`Gradient of ${label.toLowerCase()}${layers.length > 1 ? ` ${index + 1}` : ""}`}
          actions={
            <span className="flex gap-3">
              {index < layers.length - 1 && <TextAction onClick={() => raise(index)}>Raise</TextAction>}
              <TextAction onClick={() => remove(index)}>Remove</TextAction>
            </span>
          }
        >
          <GradientFields gradient={layer} path={`${path}/layers/${index}`} />
        </Section>
      ))}
      <ColourField label={`${label} below`} path={`${path}/base`} value={base} />
      <p className="text-right">
        <TextAction onClick={() => edit([{ op: "add", path: `${path}/layers/-`, value: {} }])}>Add gradient</TextAction>
      </p>
    </>
  );
}

function GradientFields({ gradient, path }: { gradient: Gradient; path: string }) {
  return (
    <>
      <GradientBar gradient={gradient} path={path} />
      <FieldsOf model="Gradient" path={path} values={gradient} />
    </>
  );
}

/** From a colour to a darker one: what shows that there is a gradient, and is to be changed. */
const stopsFrom = (colour: string) => [
  { at: 0, colour },
  { at: 100, colour: "#1c1a17" },
];
