import { Popover } from "./Popover";

/** A question mark that explains a group of controls. */
export function Help({ about, children }: { about: string; children: string }) {
  return (
    <Popover
      label={`About ${about.toLowerCase()}`}
      align="end"
      sideOffset={4}
      className="max-w-70 text-small leading-[1.45]"
      trigger={
        <button
          type="button"
          aria-label={`About ${about.toLowerCase()}`}
          className="mr-auto size-6 rounded-full text-caption text-ink-3 hover:bg-paper-recess"
        >
          ?
        </button>
      }
    >
      {children}
    </Popover>
  );
}
