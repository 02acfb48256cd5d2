import type { ReactNode } from "react";

/** The title of a section, wherever one stands: small capitals, spaced. */
export function SectionTitle({ children, apart }: { children: ReactNode; apart?: boolean }) {
  return (
    <h3 className={`text-caption font-semibold tracking-[0.08em] text-ink-2 uppercase ${apart ? "mt-2.5" : ""}`}>{children}</h3>
  );
}
