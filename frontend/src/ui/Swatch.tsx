import type { ComponentProps } from "react";

const OF = { small: "size-4", row: "h-4 w-7", field: "h-6 w-10" } as const;

/** A patch of a colour. */
export function Swatch({
  colour,
  of,
  className = "",
  ...more
}: ComponentProps<"span"> & { colour: string; of: keyof typeof OF }) {
  return (
    <span
      className={`inline-block shrink-0 border border-rule-firm ${of === "small" ? "" : "rounded-sheet"} ${OF[of]} ${className}`}
      style={{ background: colour }}
      {...more}
    />
  );
}

interface ChosenProps {
  name: string;
  colour: string;
  chosen: boolean;
  onChoose: () => void;
}

/** A named patch that can be chosen among others. */
export function SwatchButton({ name, colour, chosen, onChoose }: ChosenProps) {
  return (
    <button
      type="button"
      title={name}
      aria-label={name}
      aria-pressed={chosen}
      className="rounded-sheet border-2 border-transparent p-0.5 aria-pressed:border-verdigris"
      onClick={onChoose}
    >
      <Swatch of="field" colour={colour} />
    </button>
  );
}
