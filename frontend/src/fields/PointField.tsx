import { NumberField } from "./NumberField";

const AXES = ["x", "y", "z"] as const;
type Axis = (typeof AXES)[number];

interface Props {
  /** The model's name in the schema, such as `Place`. */
  model: string;
  path: string;
  value: Partial<Record<Axis, number>>;
  /** What the axes are called here in place of their own labels. */
  labels?: Readonly<Partial<Record<Axis, string>>>;
}

/** A point, or a turn about the axes: a number for each axis that the value has. They stand in the columns around them. */
export function PointField({ model, path, value, labels }: Props) {
  return AXES.map((axis) => {
    const at = value[axis];
    return (
      at !== undefined && (
        <NumberField key={axis} field={`${model}.${axis}`} label={labels?.[axis]} path={`${path}/${axis}`} value={at} />
      )
    );
  });
}
