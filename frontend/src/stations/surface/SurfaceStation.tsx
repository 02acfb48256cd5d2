import { useState } from "react";
import type { Material, PieceState } from "../../api/client";
import { Coupon } from "../../components/Drawn";
import { Group } from "../../components/Group";
import { liveNow, useBlock, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { MaterialFields } from "./MaterialFields";
import { PartsDrawing } from "./PartsDrawing";

export type PartState = PieceState["drawings"]["blocks"][number]["parts"][number];
type Kind = Material["kind"];

const KINDS: readonly Kind[] = ["metal", "plastic", "glass", "paint", "stone", "wood", "plaster", "glow", "flat"];

/** A material for each part of the body, chosen from coupons and then by numbers. */
export function SurfaceStation() {
  const { path: blockPath, index } = useBlock();
  const parts = useLive((live) => live.piece?.drawings.blocks[index]?.parts) ?? [];
  const edit = liveNow().edit;
  const workshop = useWorkshop();
  const [picked, setPicked] = useState("face");
  const part = parts.find((entry) => entry.part === picked) ?? parts[0];
  if (!part) return null;
  const path = `${blockPath}/surface/${part.part}`;
  const material = part.material;
  const choose = (value: Material | null) => edit([{ op: "replace", path, value }]);
  const coupons = workshop?.coupons.filter((coupon) => coupon.family === material?.kind) ?? [];
  return (
    <>
      <PartsDrawing parts={parts} picked={part.part} onPick={setPicked} />
      <Group
        title={`Material of the ${part.part}`}
        actions={
          part.own &&
          part.follows && (
            <button type="button" className="text-action" onClick={() => choose(null)}>
              As {part.follows}
            </button>
          )
        }
      >
        {!part.own && <p className="hint">As the {part.follows}. Choose a material to give it its own.</p>}
        <div className="kinds" role="group" aria-label="Kind of material">
          {KINDS.map((kind) => (
            <button
              key={kind}
              type="button"
              aria-pressed={kind === material?.kind}
              onClick={() => {
                const first = workshop?.materials.find((entry) => entry.kind === kind);
                if (first && (kind !== material?.kind || !part.own)) choose(first);
              }}
            >
              {kind}
            </button>
          ))}
        </div>
        <div className="coupons" role="group" aria-label="Coupons">
          {coupons.map((coupon) => (
            <button
              key={coupon.name}
              type="button"
              aria-pressed={JSON.stringify(coupon.material) === JSON.stringify(material)}
              onClick={() => choose(coupon.material)}
            >
              <Coupon material={coupon.material} />
              {coupon.name}
            </button>
          ))}
        </div>
        {part.own && material && <MaterialFields material={material} path={path} />}
      </Group>
    </>
  );
}
