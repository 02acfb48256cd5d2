import type { ComponentProps } from "react";

/** A text to type under its label. */
export function TextInput({ label, ...more }: ComponentProps<"input"> & { label: string }) {
  return (
    <label className="block text-small text-ink-2">
      {label}
      <input
        className="mt-[3px] block w-full rounded-sheet border border-rule-firm bg-sheet px-2 py-[5px] text-value text-ink"
        {...more}
      />
    </label>
  );
}
