import type { ReactNode } from "react";

const OF = { 3: "grid-cols-3 gap-1", 4: "grid-cols-4 gap-1", 5: "grid-cols-5 gap-0.5 tracking-tight" } as const;

/** Small pictures side by side, of which one is chosen. */
export function Tiles({ label, of, children }: { label: string; of: keyof typeof OF; children: ReactNode }) {
  return (
    <div role="group" aria-label={label} className={`grid pt-1 pb-1.5 ${OF[of]}`}>
      {children}
    </div>
  );
}

interface TileProps {
  chosen: boolean;
  onChoose: () => void;
  picture: ReactNode;
  children: ReactNode;
}

export function Tile({ chosen, onChoose, picture, children }: TileProps) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onChoose}
      className="flex min-w-0 flex-col items-center gap-0.5 overflow-hidden rounded-sheet border-2 border-transparent p-0.5 text-caption leading-[1.15] wrap-anywhere hover:bg-paper-recess aria-pressed:border-verdigris aria-pressed:bg-sheet aria-pressed:font-[650]"
    >
      {picture}
      {children}
    </button>
  );
}
