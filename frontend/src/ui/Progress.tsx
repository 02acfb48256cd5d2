import { Progress as Radix } from "radix-ui";

/** How much of a piece of work is done, as a share. */
export function Progress({ label, share }: { label: string; share: number }) {
  return (
    <Radix.Root
      aria-label={label}
      value={Math.round(100 * share)}
      className="my-1.5 h-1.5 w-full overflow-hidden rounded-sheet bg-paper-recess"
    >
      <Radix.Indicator className="h-full origin-left bg-verdigris" style={{ transform: `scaleX(${share})` }} />
    </Radix.Root>
  );
}
