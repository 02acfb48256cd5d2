import type { ReactNode } from "react";
import { create } from "zustand";
import type { ColourSource, Layer } from "../api/client";
import { liveNow } from "../live/store";
import { Section } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { ColourField } from "./ColourField";
import { FieldsOf } from "./FieldsOf";
import { GradientBar } from "./GradientBar";
import { PatternFields } from "./PatternFields";
import { PictureFields } from "./PictureFields";

interface Props {
  label: string;
  path: string;
  value: ColourSource;
  /** What the source belongs to, with another source in its place: small pictures show it. */
  holderWith: (value: ColourSource) => object;
}

/** What was copied last in this window. */
const useCopied = create<{ source: ColourSource | null }>(() => ({ source: null }));

const KINDS: readonly Layer["kind"][] = ["gradient", "pattern", "picture"];
const TITLES = { gradient: "Gradient", pattern: "Pattern", picture: "Picture" } as const;

/** A colour that may have layers over it: gradients, patterns and pictures, each with what can be set of it. */
export function SourceField({ label, path, value, holderWith }: Props) {
  const edit = liveNow().edit;
  if (typeof value === "string") {
    const layers = (kind: Layer["kind"]) => [kind === "gradient" ? { kind, stops: stopsFrom(value) } : { kind }];
    return (
      <>
        <ColourField label={label} path={path} value={value} />
        <Adding add={(kind) => edit([{ op: "replace", path, value: { base: value, layers: layers(kind) } }])}>
          <Copying path={path} value={value} />
        </Adding>
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
          title={`${TITLES[layer.kind]} of ${label.toLowerCase()}${layers.length > 1 ? ` ${index + 1}` : ""}`}
          actions={
            <span className="flex gap-3">
              {index < layers.length - 1 && <TextAction onClick={() => raise(index)}>Raise</TextAction>}
              <TextAction onClick={() => remove(index)}>Remove</TextAction>
            </span>
          }
        >
          <LayerFields
            layer={layer}
            path={`${path}/layers/${index}`}
            holderWith={(other) => holderWith({ base, layers: layers.map((own, at) => (at === index ? other : own)) })}
          />
        </Section>
      ))}
      <ColourField label={`${label} below`} path={`${path}/base`} value={base} />
      <Adding add={(kind) => edit([{ op: "add", path: `${path}/layers/-`, value: { kind } }])}>
        <Copying path={path} value={value} />
      </Adding>
    </>
  );
}

/** Copies a source, layers and all, and pastes it into another: of another part, block or piece. */
function Copying({ path, value }: { path: string; value: ColourSource }) {
  const copied = useCopied((state) => state.source);
  return (
    <>
      <TextAction onClick={() => useCopied.setState({ source: value })}>Copy</TextAction>
      <TextAction disabled={copied === null} onClick={() => liveNow().edit([{ op: "replace", path, value: copied }])}>
        Paste
      </TextAction>
    </>
  );
}

function Adding({ add, children }: { add: (kind: Layer["kind"]) => void; children: ReactNode }) {
  return (
    <p className="flex flex-wrap justify-end gap-x-3">
      {children}
      {KINDS.map((kind) => (
        <TextAction key={kind} onClick={() => add(kind)}>
          Add {kind}
        </TextAction>
      ))}
    </p>
  );
}

interface LayerProps {
  layer: Layer;
  path: string;
  holderWith: (layer: Layer) => object;
}

function LayerFields({ layer, path, holderWith }: LayerProps) {
  switch (layer.kind) {
    case "pattern":
      return <PatternFields pattern={layer} path={path} holderWith={holderWith} />;
    case "picture":
      return <PictureFields picture={layer} path={path} />;
    default:
      return (
        <>
          <GradientBar gradient={layer} path={path} />
          <FieldsOf model="Gradient" path={path} values={layer} />
        </>
      );
  }
}

/** From a colour to a darker one: what shows that there is a gradient, and is to be changed. */
const stopsFrom = (colour: string) => [
  { at: 0, colour },
  { at: 100, colour: "#1c1a17" },
];
