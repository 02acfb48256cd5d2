import type { Layer, VariedNumber } from "../api/client";
import { liveNow } from "../live/store";
import { Section } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { FieldsOf } from "./FieldsOf";
import { AddLayer, type LaidOver, Layers } from "./Layers";

interface Props {
  label: string;
  /** The name of its model in the schema. */
  model: string;
  path: string;
  value: VariedNumber;
  /** What the number belongs to, with another in its place: small pictures show it. */
  holderWith: (value: VariedNumber) => object;
  over?: LaidOver | undefined;
}

/** A number that differs from place to place: its two ends, and the layers whose tones lead from one to the other. */
export function VariedField({ label, model, path, value, holderWith, over }: Props) {
  const edit = liveNow().edit;
  const of = label.toLowerCase();
  const plain = () => edit([{ op: "replace", path, value: value.dark }]);
  return (
    <Section title={`Varied ${of}`} actions={<TextAction onClick={plain}>The same everywhere</TextAction>}>
      <FieldsOf model={model} path={path} values={value} />
      <Layers
        of={of}
        path={`${path}/layers`}
        layers={value.layers}
        holderWith={(layers) => holderWith({ ...value, layers })}
        removeLast={plain}
        over={over}
      />
      <AddGreyLayer of={of} path={`${path}/layers`} />
    </Section>
  );
}

/** Offers layers of which only the tones count: they begin in black and white. */
export function AddGreyLayer({ of, path }: { of: string; path: string }) {
  return <AddLayer of={of} add={(kind) => liveNow().edit([{ op: "add", path: `${path}/-`, value: greyLayer(kind) }])} />;
}

function greyLayer(kind: Layer["kind"]) {
  const [black, white] = [{ colour: "#000000" }, { colour: "#ffffff" }];
  if (kind === "gradient") {
    return {
      kind,
      mix: "srgb",
      stops: [
        { at: 0, ...black },
        { at: 100, ...white },
      ],
    };
  }
  if (kind === "mesh") {
    const corners = [0, 1, 2, 3].map((at) => ({ x: 100 * (at % 2), y: at < 2 ? 100 : 0, ...(at % 3 ? white : black) }));
    return { kind, points: corners };
  }
  if (kind === "tile") return { kind, ...white };
  return kind === "pattern" ? { kind, paints: [black, white] } : { kind };
}
