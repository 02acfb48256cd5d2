import { useState } from "react";
import type { BlockDrawing, Material } from "../../api/client";
import { Coupon } from "../../components/Drawn";
import { Paints } from "../../components/Paints";
import { liveNow, useBlock, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Hint } from "../../ui/Notes";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { Tile, Tiles } from "../../ui/Tiles";
import { MaterialFields } from "./MaterialFields";
import { PartsDrawing } from "./PartsDrawing";

export type PartState = BlockDrawing["parts"][number];
type Kind = Material["kind"];

const KINDS: readonly Kind[] = ["metal", "plastic", "glass", "paint", "stone", "wood", "plaster", "glow", "flat"];

/** A material for each part of the body, chosen from coupons and then by numbers. */
export function SurfaceStation() {
  const { path: blockPath, index, block } = useBlock();
  const parts = useLive((live) => live.piece?.drawings.blocks[index]?.parts) ?? [];
  const edit = liveNow().edit;
  const workshop = useWorkshop();
  const [picked, setPicked] = useState("face");
  const part = parts.find((entry) => entry.part === picked) ?? parts[0];
  if (!part) return null;
  const path = `${blockPath}/surface/${part.part}`;
  // The drawing's own colours are plain; those of the document may refer to paints.
  const material = block.surface[part.part as keyof typeof block.surface] ?? part.material;
  const choose = (value: Material | null) => edit([{ op: "replace", path, value }]);
  const coupons = workshop?.coupons.filter((coupon) => coupon.family === material?.kind) ?? [];
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
        <div
          role="group"
          aria-label="Kind of material"
          className="grid grid-cols-[repeat(auto-fit,minmax(52px,1fr))] rounded-sheet border border-rule-firm"
        >
          {KINDS.map((kind) => (
            <button
              key={kind}
              type="button"
              aria-pressed={kind === material?.kind}
              className="min-h-6 border-b-2 border-transparent hover:bg-paper-recess aria-pressed:border-verdigris aria-pressed:bg-sheet aria-pressed:font-[650]"
              onClick={() => {
                const first = workshop?.materials.find((entry) => entry.kind === kind);
                if (first && (kind !== material?.kind || !part.own)) choose(first);
              }}
            >
              {kind}
            </button>
          ))}
        </div>
        <Tiles label="Coupons" of={4}>
          {coupons.map((coupon) => (
            <Tile
              key={coupon.name}
              chosen={JSON.stringify(coupon.material) === JSON.stringify(material)}
              onChoose={() => choose(coupon.material)}
              picture={<Coupon material={coupon.material} size="aspect-[134/92] w-full" />}
            >
              <span className="w-full text-left">{coupon.name}</span>
            </Tile>
          ))}
        </Tiles>
        {part.own && material && <MaterialFields material={material} path={path} />}
      </Section>
    </>
  );
}
