import type { ComponentProps } from "react";

interface Props extends ComponentProps<"button"> {
  wide?: boolean;
  /** What it was pressed for is under way: it waits, and takes no second press. */
  waiting?: boolean;
}

/** The one act that a panel or the screen is for. */
export function Button({ wide, waiting, children, ...more }: Props) {
  return (
    <button
      type="button"
      aria-busy={waiting || undefined}
      disabled={waiting}
      className={`rounded-sheet bg-verdigris px-5 py-[7px] font-semibold text-white hover:bg-verdigris-deep disabled:cursor-progress disabled:opacity-70 pointer-coarse:min-h-11 ${wide ? "mt-4 w-full" : ""}`}
      {...more}
    >
      {children}
    </button>
  );
}
