import { Check } from "lucide-react";
import { Checkbox } from "radix-ui";
import { useId } from "react";

interface Props {
  label: string;
  /** Only a screen reader says it. */
  hideLabel?: boolean;
  on: boolean;
  disabled?: boolean;
  onChange: (on: boolean) => void;
}

/** A labelled tick box. */
export function Tick({ label, hideLabel, on, disabled, onChange }: Props) {
  const id = useId();
  return (
    <span className="inline-flex items-center gap-1.5 py-[3px] pointer-coarse:min-h-10">
      <Checkbox.Root
        id={id}
        checked={on}
        disabled={disabled}
        aria-label={hideLabel ? label : undefined}
        onCheckedChange={(next) => onChange(next === true)}
        className="grid size-4 shrink-0 place-items-center rounded-sheet border border-rule-firm bg-sheet text-verdigris disabled:opacity-60"
      >
        <Checkbox.Indicator>
          <Check size={14} strokeWidth={3} aria-hidden="true" />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {!hideLabel && <label htmlFor={id}>{label}</label>}
    </span>
  );
}
