import { useState } from "react";
import type { BlockDrawing, Material } from "../../api/client";
import { MaterialPicker } from "../../components/MaterialPicker";
import { Paints } from "../../components/Paints";
import { MaterialFields } from "../../fields/MaterialFields";
import { liveNow, useBlock, useLive } from "../../live/store";
import { Hint } from "../../ui/Notes";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { PartsDrawing } from "./PartsDrawing";

export type PartState = BlockDrawing["parts"][number];
type Kind = Material["kind"];

const KINDS: readonly Kind[] = ["metal", "plastic", "glass", "paint", "stone", "wood", "plaster", "glow", "flat"];

/** A material for each part of the body, chosen from coupons and then by numbers. */
export function SurfaceStation() {
  const { path: blockPath, index, block } = useBlock();
  const parts = useLive((live) => live.piece?.drawings.blocks[index]?.parts) ?? [];
  const edit = liveNow().edit;
  const [picked, setPicked] = useState("face");
  const part = parts.find((entry) => entry.part === picked) ?? parts[0];
  if (!part) return null;
  const path = `${blockPath}/surface/${part.part}`;
  // The drawing's own colours are plain; those of the document may refer to paints.
  const material = block.surface[part.part as keyof typeof block.surface] ?? part.material;
  const choose = (value: Material | null) => edit([{ op: "replace", path, value }]);
  return (
    <>
      <Paints />
      <PartsDrawing
        parts={parts}
        picked={part.part}
        onPick={setPicked}
        onColourAs={(to, from) => edit([{ op: "colour-as", path: `${blockPath}/surface/${to}`, value: from }])}
      />
      <Section
        title={`Material of the ${part.part}`}
        actions={part.own && part.follows && <TextAction onClick={() => choose(null)}>As {part.follows}</TextAction>}
      >
        {!part.own && <Hint>As the {part.follows}. Choose a material to give it its own.</Hint>}
        <MaterialPicker kinds={KINDS} material={material} own={part.own} onChoose={choose} />
        {part.own && material && <MaterialFields material={material} path={path} />}
      </Section>
    </>
  );
}
