import type { ComponentProps } from "react";

/** A small act, as a word that is clicked. */
export function TextAction(props: ComponentProps<"button">) {
  return (
    <button
      type="button"
      className="underline decoration-1 underline-offset-2 enabled:hover:text-verdigris disabled:text-ink-3 disabled:no-underline pointer-coarse:min-h-10"
      {...props}
    />
  );
}

/** The same for something to fetch. */
export function TextLink(props: ComponentProps<"a">) {
  return <a className="underline decoration-1 underline-offset-2 hover:text-verdigris" {...props} />;
}
