/** A key as it is printed on the keyboard. */
export function Kbd({ children }: { children: string }) {
  return (
    <kbd className="rounded-sheet border border-rule bg-sheet px-1.5 py-px font-[inherit] text-small font-medium whitespace-nowrap">
      {children}
    </kbd>
  );
}
