import { Toast as Radix } from "radix-ui";
import { create } from "zustand";

const SHOWN_MS = 8000;

interface Toast {
  key: number;
  says: string;
  /** What can be done about it, such as to undo it. */
  action?: { name: string; run: () => void };
}

let keys = 0;
const useToasts = create<{ toast: Toast | null }>(() => ({ toast: null }));

/** Says what was done, for a while. A newer message takes the place of the one before. */
export function toast(says: string, action?: Toast["action"]) {
  keys += 1;
  useToasts.setState({ toast: { key: keys, says, action } });
}

export function Toasts() {
  const shown = useToasts((state) => state.toast);
  const close = () => useToasts.setState({ toast: null });
  return (
    <Radix.Provider duration={SHOWN_MS} swipeDirection="left" label="Message">
      {shown && (
        <Radix.Root
          key={shown.key}
          onOpenChange={(open) => !open && close()}
          className="flex items-center gap-4 rounded-sheet border border-rule-firm border-l-3 border-l-verdigris bg-sheet py-2 pr-2 pl-3"
        >
          <Radix.Description>{shown.says}</Radix.Description>
          {shown.action && (
            <Radix.Action altText={shown.action.name} asChild>
              <button
                type="button"
                className="rounded-sheet px-2 py-1 font-semibold text-verdigris hover:bg-paper-recess pointer-coarse:min-h-11"
                onClick={shown.action.run}
              >
                {shown.action.name}
              </button>
            </Radix.Action>
          )}
        </Radix.Root>
      )}
      <Radix.Viewport className="fixed bottom-4 left-4 z-40 outline-none" />
    </Radix.Provider>
  );
}
