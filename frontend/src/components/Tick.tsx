import { Checkbox } from "radix-ui";
import { useId } from "react";

/** A labelled tick box. */
export function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  const id = useId();
  return (
    <span className="tick-box">
      <Checkbox.Root id={id} checked={on} onCheckedChange={(next) => onChange(next === true)}>
        <Checkbox.Indicator>
          <svg viewBox="0 0 12 12" aria-hidden="true">
            <path d="M2 6.5 5 9.5 10.5 3" fill="none" stroke="currentColor" strokeWidth="2" />
          </svg>
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id}>{label}</label>
    </span>
  );
}
