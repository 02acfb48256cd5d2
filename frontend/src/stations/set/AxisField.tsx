import { NumberField } from "../../fields/NumberField";
import { useBlock } from "../../live/store";

interface AxisProps {
  tag: string;
  name: string;
  minimum: number;
  default: number;
  maximum: number;
  value: number;
}

/** A variable axis of the typeface, in the font's own units. */
export function AxisField({ tag, name, minimum, maximum, value, ...axis }: AxisProps) {
  const { path } = useBlock();
  const step = maximum - minimum > 20 ? 5 : 0.1;
  const info = { label: name, unit: "", comfort: [minimum, maximum] as [number, number], step, default: axis.default };
  return <NumberField info={info} path={`${path}/axes/${tag}`} value={value} />;
}
