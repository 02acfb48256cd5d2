import { liveNow } from "../live/store";
import { Tick } from "../ui/Tick";

/** A switch that the document keeps. */
export function TickField({ label, path, on }: { label: string; path: string; on: boolean }) {
  const { edit } = liveNow();
  return <Tick label={label} on={on} onChange={(value) => edit([{ op: "replace", path, value }])} />;
}
