import type { Layer, Material, Pattern } from "../api/client";
import { Coupon } from "../components/Drawn";
import { liveNow } from "../live/store";
import { useWorkshop } from "../live/workshop";
import { TextAction } from "../ui/TextAction";
import { Tile, Tiles } from "../ui/Tiles";
import { FieldsOf } from "./FieldsOf";

interface Props {
  pattern: Pattern;
  path: string;
  holderWith: (layer: Layer) => object;
  /** Fields that have no meaning here. */
  without: readonly string[];
}

/** A pattern, chosen from coupons of the part's own material, with its paints and its numbers. */
export function PatternFields({ pattern, path, holderWith, without }: Props) {
  const edit = liveNow().edit;
  const names = useWorkshop().models.Pattern?.find((field) => field.name === "pattern")?.options ?? [];
  const { paints } = pattern;
  return (
    <>
      <Tiles label="Pattern" of={4}>
        {names.map((name) => {
          const holder = holderWith({ ...pattern, pattern: name as Pattern["pattern"] });
          return (
            <Tile
              key={name}
              chosen={name === pattern.pattern}
              onChoose={() => edit([{ op: "replace", path: `${path}/pattern`, value: name }])}
              picture={"kind" in holder && <Coupon material={holder as Material} size="aspect-[134/92] w-full" />}
            >
              <span className="w-full text-left">{name}</span>
            </Tile>
          );
        })}
      </Tiles>
      {paints.map((paint, index) => (
        <div key={index} role="group" aria-label={`Paint ${index + 1} of ${paints.length}`}>
          <FieldsOf
            model="PatternPaint"
            path={`${path}/paints/${index}`}
            values={paint}
            labels={{ colour: index === 0 ? "Ground" : `Paint ${index}` }}
          />
          {paints.length > 2 && (
            <p className="text-right">
              <TextAction onClick={() => edit([{ op: "remove", path: `${path}/paints/${index}` }])}>Remove paint</TextAction>
            </p>
          )}
        </div>
      ))}
      <p className="text-right">
        <TextAction onClick={() => edit([{ op: "add", path: `${path}/paints/-`, value: paints.at(-1) }])}>Add paint</TextAction>
      </p>
      <FieldsOf model="Pattern" path={path} values={pattern} without={["pattern", ...without]} />
    </>
  );
}
