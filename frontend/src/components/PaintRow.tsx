import type { NamedPaint } from "../api/client";
import { SwatchButton } from "../ui/Swatch";

interface Props {
  label: string;
  paints: readonly NamedPaint[];
  chosen: NamedPaint | undefined;
  onChoose: (paint: NamedPaint) => void;
  className?: string;
}

/** Paints side by side, of which one is chosen. */
export function PaintRow({ label, paints, chosen, onChoose, className = "" }: Props) {
  return (
    <div role="group" aria-label={label} className={`flex flex-wrap gap-1 ${className}`}>
      {paints.map((paint) => (
        <SwatchButton
          key={paint.id}
          name={paint.name}
          colour={paint.colour}
          chosen={paint === chosen}
          onChoose={() => onChoose(paint)}
        />
      ))}
    </div>
  );
}
