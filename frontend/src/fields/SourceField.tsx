import { create } from "zustand";
import type { ColourSource, Layer } from "../api/client";
import { liveNow } from "../live/store";
import { TextAction } from "../ui/TextAction";
import { ColourField } from "./ColourField";
import { AddLayer, type LaidOver, Layers } from "./Layers";

interface Props {
  label: string;
  path: string;
  value: ColourSource;
  /** What the source belongs to, with another source in its place: small pictures show it. */
  holderWith: (value: ColourSource) => object;
  /** What its layers are laid over, if not a body. */
  over?: LaidOver | undefined;
}

/** What was copied last in this window. */
const useCopied = create<{ source: ColourSource | null }>(() => ({ source: null }));

/** A colour that may have layers over it: gradients, patterns and pictures, each with what can be set of it. */
export function SourceField({ label, path, value, holderWith, over }: Props) {
  const edit = liveNow().edit;
  const of = label.toLowerCase();
  if (typeof value === "string") {
    const layers = (kind: Layer["kind"]) => [kind === "gradient" ? { kind, stops: stopsFrom(value) } : { kind }];
    return (
      <>
        <ColourField label={label} path={path} value={value} />
        <AddLayer of={of} add={(kind) => edit([{ op: "replace", path, value: { base: value, layers: layers(kind) } }])}>
          <Copying of={of} path={path} value={value} />
        </AddLayer>
      </>
    );
  }
  const { base, layers } = value;
  return (
    <>
      <Layers
        of={of}
        path={`${path}/layers`}
        layers={layers}
        holderWith={(others) => holderWith({ base, layers: others })}
        over={over}
        removeLast={() => edit([{ op: "replace", path, value: base }])}
      />
      <ColourField label={`${label} below`} path={`${path}/base`} value={base} />
      <AddLayer of={of} add={(kind) => edit([{ op: "add", path: `${path}/layers/-`, value: { kind } }])}>
        <Copying of={of} path={path} value={value} />
      </AddLayer>
    </>
  );
}

/** Copies a source, layers and all, and pastes it into another: of another part, block or piece. */
function Copying({ of, path, value }: { of: string; path: string; value: ColourSource }) {
  const copied = useCopied((state) => state.source);
  return (
    <>
      <TextAction aria-label={`Copy ${of}`} onClick={() => useCopied.setState({ source: value })}>
        Copy
      </TextAction>
      <TextAction
        aria-label={`Paste into ${of}`}
        disabled={copied === null}
        onClick={() => liveNow().edit([{ op: "replace", path, value: copied }])}
      >
        Paste
      </TextAction>
    </>
  );
}

/** From a colour to a darker one: what shows that there is a gradient, and is to be changed. */
const stopsFrom = (colour: string) => [
  { at: 0, colour },
  { at: 100, colour: "#1c1a17" },
];
