import { ToggleGroup } from "radix-ui";
import type { ReactNode } from "react";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (T | { value: T; show: ReactNode })[];
  onChoose: (value: T) => void;
  hideLabel?: boolean;
}

/** A choice of a few: the chosen one carries weight and an underline besides colour. */
export function Choice<T extends string>({ label, value, options, onChoose, hideLabel }: Props<T>) {
  return (
    <div className={hideLabel ? "choice-row alone" : "choice-row"}>
      {!hideLabel && <span className="choice-label">{label}</span>}
      <ToggleGroup.Root
        type="single"
        className="choice"
        aria-label={label}
        value={value}
        onValueChange={(next) => next && onChoose(next as T)}
      >
        {options.map((option) => {
          const entry = typeof option === "string" ? { value: option, show: option } : option;
          return (
            <ToggleGroup.Item key={entry.value} value={entry.value}>
              {entry.show}
            </ToggleGroup.Item>
          );
        })}
      </ToggleGroup.Root>
    </div>
  );
}
