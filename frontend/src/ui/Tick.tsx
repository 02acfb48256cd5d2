import { Check } from "lucide-react";
import { Checkbox } from "radix-ui";
import { useId } from "react";

/** A labelled tick box. */
export function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  const id = useId();
  return (
    <span className="inline-flex items-center gap-1.5 py-[3px] pointer-coarse:min-h-10">
      <Checkbox.Root
        id={id}
        checked={on}
        onCheckedChange={(next) => onChange(next === true)}
        className="grid size-4 shrink-0 place-items-center rounded-sheet border border-rule-firm bg-sheet text-verdigris"
      >
        <Checkbox.Indicator>
          <Check size={14} strokeWidth={3} aria-hidden="true" />
        </Checkbox.Indicator>
      </Checkbox.Root>
      <label htmlFor={id}>{label}</label>
    </span>
  );
}
