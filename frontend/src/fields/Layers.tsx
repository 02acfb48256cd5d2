import type { ReactNode } from "react";
import type { Layer } from "../api/client";
import { liveNow } from "../live/store";
import { useWorkshop } from "../live/workshop";
import { Section } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { ChoiceField } from "./ChoiceField";
import { FieldsOf } from "./FieldsOf";
import { GradientBar } from "./GradientBar";
import { MeshFields } from "./MeshFields";
import { PatternFields } from "./PatternFields";
import { PictureFields } from "./PictureFields";
import { TileFields } from "./TileFields";

const LAYER_KINDS: readonly Layer["kind"][] = ["gradient", "pattern", "mesh", "picture", "tile"];
const TITLES = { gradient: "Gradient", pattern: "Pattern", mesh: "Mesh", picture: "Picture", tile: "Tile" } as const;
/** Layers of a wash lie over the canvas, those of a ground over it or the canvas; all others over parts of a body. */
export type LaidOver = "canvas" | "ground";

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
  over?: LaidOver | undefined;
}

/** Layers over a colour or a number, the top one first, each with what can be set of it. */
export function Layers({ of, path, layers, holderWith, removeLast, over }: Props) {
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
        over={over}
        holderWith={(other) => holderWith(layers.map((own, at) => (at === index ? other : own)))}
      />
    </Section>
  ));
}

interface AddProps {
  /** What the layers are of, for a screen reader. */
  of: string;
  add: (kind: Layer["kind"]) => void;
  children?: ReactNode;
}

/** Offers a layer of each kind. */
export function AddLayer({ of, add, children }: AddProps) {
  return (
    <p className="flex flex-wrap justify-end gap-x-3 gap-y-2">
      {children}
      {LAYER_KINDS.map((kind) => (
        <TextAction key={kind} aria-label={`Add ${kind} to ${of}`} onClick={() => add(kind)}>
          Add {kind}
        </TextAction>
      ))}
    </p>
  );
}

interface LayerProps {
  layer: Layer;
  path: string;
  over: LaidOver | undefined;
  holderWith: (layer: Layer) => object;
}

function LayerFields({ layer, path, over, holderWith }: LayerProps) {
  const without = over ? ["span"] : [];
  return (
    <>
      {over === "ground" && <SpanOnGround layer={layer} path={path} />}
      {layer.kind === "gradient" && (
        <>
          <GradientBar gradient={layer} path={path} />
          <FieldsOf model="Gradient" path={path} values={layer} without={without} />
        </>
      )}
      {layer.kind === "mesh" && <MeshFields mesh={layer} path={path} without={without} />}
      {layer.kind === "pattern" && <PatternFields pattern={layer} path={path} holderWith={holderWith} without={without} />}
      {layer.kind === "picture" && <PictureFields picture={layer} path={path} without={without} />}
      {layer.kind === "tile" && <TileFields tile={layer} path={path} without={without} />}
    </>
  );
}

/** Whether a layer lies over the canvas, as the camera sees it, or over the ground itself. */
function SpanOnGround({ layer, path }: { layer: Layer; path: string }) {
  const workshop = useWorkshop();
  const spans = workshop.ground_spans;
  const own = workshop.models[TITLES[layer.kind]]?.find((field) => field.name === "span")?.options ?? [];
  const options = spans.filter((span) => own.includes(span));
  if (options.length < 2) return null;
  const value = options.includes(layer.span) ? layer.span : (options[0] ?? "");
  return <ChoiceField label="Over" path={`${path}/span`} value={value} options={options} />;
}
