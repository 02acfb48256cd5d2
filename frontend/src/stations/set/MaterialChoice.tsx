import type { Material } from "../../api/client";
import { liveNow } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Select } from "../../ui/Select";

interface Props {
  label: string;
  path: string;
  material: Material | null | undefined;
}

const AS_THE_BLOCK = "as the block";

/** The material of a letter or a part of a mark: the block's, or one of its own from the coupons. */
export function MaterialChoice({ label, path, material }: Props) {
  const coupons = useWorkshop().coupons;
  const edit = liveNow().edit;
  const own = material ? nameOf(material) : AS_THE_BLOCK;
  const named = coupons.find((coupon) => JSON.stringify(coupon.material) === JSON.stringify(material));
  return (
    <Select
      label={label}
      value={named?.name ?? own}
      // A material that is no coupon can be kept, not chosen anew.
      options={[AS_THE_BLOCK, ...(material && !named ? [own] : []), ...coupons.map((coupon) => coupon.name)]}
      onChoose={(name) =>
        name !== own && edit([{ op: "replace", path, value: coupons.find((coupon) => coupon.name === name)?.material ?? null }])
      }
    />
  );
}

function nameOf(material: Material): string {
  return "colour" in material && typeof material.colour === "string" ? `${material.kind} ${material.colour}` : material.kind;
}
