import { Check, ChevronDown } from "lucide-react";
import { Select as Radix } from "radix-ui";
import { useId } from "react";

interface Props {
  label: string;
  value: string;
  options: readonly string[];
  onChoose: (value: string) => void;
}

/** A choice of many, of which only the chosen one is shown until it is opened. */
export function Select({ label, value, options, onChoose }: Props) {
  const id = useId();
  return (
    <div className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 py-[5px]">
      <label htmlFor={id}>{label}</label>
      <Radix.Root value={value} onValueChange={onChoose}>
        <Radix.Trigger
          id={id}
          className="flex h-7 min-w-0 items-center gap-1.5 rounded-sheet border border-rule-firm bg-sheet px-1.5 font-[650]"
        >
          <span className="truncate">
            <Radix.Value />
          </span>
          <Radix.Icon>
            <ChevronDown size={14} aria-hidden="true" />
          </Radix.Icon>
        </Radix.Trigger>
        <Radix.Portal>
          <Radix.Content
            position="popper"
            sideOffset={2}
            collisionPadding={8}
            className="z-30 max-h-(--radix-select-content-available-height) min-w-(--radix-select-trigger-width) rounded-sheet border border-rule-firm bg-paper"
          >
            <Radix.Viewport className="py-1">
              {options.map((option) => (
                <Radix.Item
                  key={option}
                  value={option}
                  className="flex cursor-default items-center justify-between gap-3 py-1 pr-2 pl-3 text-body outline-none data-highlighted:bg-verdigris-wash data-[state=checked]:font-bold pointer-coarse:min-h-11"
                >
                  <Radix.ItemText>{option}</Radix.ItemText>
                  <Radix.ItemIndicator>
                    <Check size={14} aria-hidden="true" />
                  </Radix.ItemIndicator>
                </Radix.Item>
              ))}
            </Radix.Viewport>
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </div>
  );
}
