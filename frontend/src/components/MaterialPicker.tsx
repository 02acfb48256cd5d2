import type { Material } from "../api/client";
import { useWorkshop } from "../live/workshop";
import { Tile, Tiles } from "../ui/Tiles";
import { Coupon } from "./Drawn";

interface Props {
  /** The kinds there are to choose from. */
  kinds: readonly string[];
  material: Material | null | undefined;
  /** Whether the material is the part's own: choosing its kind again then changes nothing. */
  own: boolean;
  onChoose: (material: Material) => void;
}

/** A material, chosen by its kind and then from coupons under the piece's own lamps. */
export function MaterialPicker({ kinds, material, own, onChoose }: Props) {
  const workshop = useWorkshop();
  const coupons = workshop.coupons.filter((coupon) => coupon.family === material?.kind);
  return (
    <>
      <div
        role="group"
        aria-label="Kind of material"
        className="grid grid-cols-[repeat(auto-fit,minmax(52px,1fr))] rounded-sheet border border-rule-firm"
      >
        {kinds.map((kind) => (
          <button
            key={kind}
            type="button"
            aria-pressed={kind === material?.kind}
            className="min-h-6 border-b-2 border-transparent hover:bg-paper-recess aria-pressed:border-verdigris aria-pressed:bg-sheet aria-pressed:font-[650]"
            onClick={() => {
              const first = workshop.materials.find((entry) => entry.kind === kind);
              if (first && (kind !== material?.kind || !own)) onChoose(first);
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
            onChoose={() => onChoose(coupon.material)}
            picture={<Coupon material={coupon.material} size="aspect-[134/92] w-full" />}
          >
            <span className="w-full text-left">{coupon.name}</span>
          </Tile>
        ))}
      </Tiles>
    </>
  );
}
