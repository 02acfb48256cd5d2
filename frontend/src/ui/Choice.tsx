import { ToggleGroup } from "radix-ui";
import type { ReactNode } from "react";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (T | { value: T; show: ReactNode })[];
  onChoose: (value: T) => void;
  hideLabel?: boolean;
  /** Of small pictures: the chosen one is framed. */
  pictures?: boolean;
}

const WORD =
  "grow px-[9px] py-[3px] data-[state=on]:bg-sheet data-[state=on]:font-[650] data-[state=on]:shadow-[inset_0_-2px_var(--color-verdigris)]";
const PICTURE = "data-[state=on]:outline-2 data-[state=on]:-outline-offset-1 data-[state=on]:outline-verdigris";

/** A choice of a few: the chosen one carries weight and an underline besides colour. */
export function Choice<T extends string>({ label, value, options, onChoose, hideLabel, pictures }: Props<T>) {
  return (
    <div className={`flex items-center justify-between py-[5px] ${pictures ? "shrink-0 gap-2" : "flex-wrap gap-x-3 gap-y-1"}`}>
      {!hideLabel && <span>{label}</span>}
      <ToggleGroup.Root
        type="single"
        className={`flex flex-wrap divide-x divide-rule rounded-sheet border border-rule-firm ${hideLabel && !pictures ? "grow" : ""}`}
        aria-label={label}
        value={value}
        onValueChange={(next) => next && onChoose(next as T)}
      >
        {options.map((option) => {
          const entry = typeof option === "string" ? { value: option, show: option } : option;
          return (
            <ToggleGroup.Item key={entry.value} value={entry.value} className={pictures ? PICTURE : WORD}>
              {entry.show}
            </ToggleGroup.Item>
          );
        })}
      </ToggleGroup.Root>
    </div>
  );
}
