import { useId } from "react";
import type { Material } from "../../api/client";
import { liveNow } from "../../live/store";
import { useWorkshop } from "../../live/workshop";

interface Props {
  label: string;
  path: string;
  material: Material | null | undefined;
}

/** The material of a letter or a part of a mark: the block's, or one of its own from the coupons. */
export function MaterialChoice({ label, path, material }: Props) {
  const coupons = useWorkshop()?.coupons ?? [];
  const edit = liveNow().edit;
  const id = useId();
  const own = material ? JSON.stringify(material) : "";
  const named = coupons.find((coupon) => JSON.stringify(coupon.material) === own);
  return (
    <div className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 py-[5px]">
      <label htmlFor={id}>{label}</label>
      <select
        id={id}
        className="h-7 rounded-sheet border border-rule-firm bg-sheet px-1.5"
        value={named ? named.name : own && "own"}
        onChange={(event) => {
          const chosen = coupons.find((coupon) => coupon.name === event.target.value);
          edit([{ op: "replace", path, value: chosen ? chosen.material : null }]);
        }}
      >
        <option value="">as the block</option>
        {own && !named && (
          <option value="own">
            {"colour" in (material ?? {}) ? `${material?.kind} ${(material as { colour: string }).colour}` : material?.kind}
          </option>
        )}
        {coupons.map((coupon) => (
          <option key={coupon.name} value={coupon.name}>
            {coupon.name}
          </option>
        ))}
      </select>
    </div>
  );
}
