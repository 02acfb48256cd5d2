import type { ComponentProps } from "react";

interface Props extends ComponentProps<"button"> {
  /** What it was clicked for is under way: it waits, and takes no second click. */
  waiting?: boolean;
}

/** A small act, as a word that is clicked. */
export function TextAction({ waiting, disabled, ...more }: Props) {
  return (
    <button
      type="button"
      aria-busy={waiting || undefined}
      disabled={disabled || waiting}
      className="underline decoration-1 underline-offset-2 enabled:hover:text-verdigris disabled:text-ink-3 disabled:no-underline aria-busy:cursor-progress aria-busy:decoration-dotted aria-busy:underline pointer-coarse:min-h-10"
      {...more}
    />
  );
}

/** The same for something to fetch. */
export function TextLink(props: ComponentProps<"a">) {
  return <a className="underline decoration-1 underline-offset-2 hover:text-verdigris" {...props} />;
}
