import type { ReactNode } from "react";
import type { Layer } from "../api/client";
import { liveNow } from "../live/store";
import { Section } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { FieldsOf } from "./FieldsOf";
import { GradientBar } from "./GradientBar";
import { PatternFields } from "./PatternFields";
import { PictureFields } from "./PictureFields";
import { TileFields } from "./TileFields";

const LAYER_KINDS: readonly Layer["kind"][] = ["gradient", "pattern", "picture", "tile"];
const TITLES = { gradient: "Gradient", pattern: "Pattern", picture: "Picture", tile: "Tile" } as const;

interface Props {
  /** What the layers make, as it is called within a sentence. */
  of: string;
  /** JSON Pointer of the list of layers. */
  path: string;
  layers: readonly Layer[];
  /** What the layers belong to, with others in their place: small pictures show it. */
  holderWith: (layers: Layer[]) => object;
  /** What becomes of it when the last one is removed; without, the last one stays. */
  removeLast?: () => void;
}

/** Layers over a colour or a number, the top one first, each with what can be set of it. */
export function Layers({ of, path, layers, holderWith, removeLast }: Props) {
  const edit = liveNow().edit;
  const remove = (index: number) =>
    layers.length === 1 && removeLast ? removeLast() : edit([{ op: "remove", path: `${path}/${index}` }]);
  const raise = (index: number) => {
    const order = [...layers];
    order.splice(index + 1, 0, ...order.splice(index, 1));
    edit([{ op: "replace", path, value: order }]);
  };
  const shown = layers.map((layer, index) => ({ layer, index })).reverse();
  return shown.map(({ layer, index }) => (
    <Section
      key={index}
      title={`${TITLES[layer.kind]} of ${of}${layers.length > 1 ? ` ${index + 1}` : ""}`}
      actions={
        <span className="flex gap-3">
          {index < layers.length - 1 && <TextAction onClick={() => raise(index)}>Raise</TextAction>}
          {(layers.length > 1 || removeLast) && <TextAction onClick={() => remove(index)}>Remove</TextAction>}
        </span>
      }
    >
      <LayerFields
        layer={layer}
        path={`${path}/${index}`}
        holderWith={(other) => holderWith(layers.map((own, at) => (at === index ? other : own)))}
      />
    </Section>
  ));
}

/** Offers a layer of each kind. */
export function AddLayer({ add, children }: { add: (kind: Layer["kind"]) => void; children?: ReactNode }) {
  return (
    <p className="flex flex-wrap justify-end gap-x-3">
      {children}
      {LAYER_KINDS.map((kind) => (
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
    case "tile":
      return <TileFields tile={layer} path={path} />;
    default:
      return (
        <>
          <GradientBar gradient={layer} path={path} />
          <FieldsOf model="Gradient" path={path} values={layer} />
        </>
      );
  }
}
