import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { useLive } from "../live/store";
import { Remark } from "../ui/Notes";
import { Popover } from "../ui/Popover";
import { ScrollArea } from "../ui/ScrollArea";
import { ToolbarItem } from "../ui/Toolbar";
import { useWaiting } from "../ui/useWaiting";

/** Every state the piece ever had, with a small picture: step to any of them, and go on from there. */
export function HistoryMenu() {
  const piece = useLive((live) => live.piece);
  const [shown, setShown] = useState(false);
  const [waiting, run] = useWaiting();
  const list = useQuery({
    queryKey: ["history", piece?.id, piece?.revision],
    queryFn: () => api.history(piece?.id ?? ""),
    enabled: shown && piece !== null,
    placeholderData: (before) => before,
  }).data;
  if (!piece) return null;
  return (
    <Popover
      label="History"
      align="end"
      sideOffset={6}
      className="w-85"
      open={shown}
      onOpenChange={setShown}
      trigger={
        <ToolbarItem>
          <button type="button" className="h-7 rounded-sheet px-2 text-small hover:bg-paper-recess">
            History
          </button>
        </ToolbarItem>
      }
    >
      <Remark>Return to any earlier state. Nothing that came after it is lost.</Remark>
      <ScrollArea className="-mx-3 mt-2 -mb-3" upTo="max-h-[60vh]">
        <ol>
          {list?.entries.map((entry) => (
            <li key={entry.id}>
              <button
                type="button"
                aria-current={entry.present ? "step" : undefined}
                className="grid w-full grid-cols-[64px_1fr_auto] items-center gap-x-2.5 gap-y-0.5 px-3 py-1 text-left hover:bg-paper-recess focus-visible:-outline-offset-2 aria-[current]:bg-verdigris-wash aria-[current]:font-[650] aria-[current]:shadow-[inset_3px_0_var(--color-verdigris)]"
                disabled={waiting}
                onClick={() => void run(() => api.goTo(piece.id, entry.id))}
              >
                <img
                  src={`/api/pieces/${piece.id}/history/${entry.id}/thumbnail?at=${at(entry)}`}
                  alt=""
                  className="h-9 w-16 bg-paper-recess object-cover"
                  loading="lazy"
                />
                <span className={entry.kept ? "" : "text-ink-3"}>{entry.label}</span>
                <time className="text-caption text-ink-3" dateTime={new Date(entry.created * 1000).toISOString()}>
                  {clock(entry.created)}
                </time>
                {!entry.kept && <small className="col-start-2 text-caption text-ink-3">other branch</small>}
              </button>
            </li>
          ))}
        </ol>
      </ScrollArea>
    </Popover>
  );
}

/** A state changes while its gesture lasts, and with it its label. */
function at(entry: { label: string }): string {
  return encodeURIComponent(entry.label);
}

function clock(seconds: number): string {
  const when = new Date(seconds * 1000);
  const today = new Date().toDateString() === when.toDateString();
  return when.toLocaleString(
    [],
    today ? { hour: "2-digit", minute: "2-digit" } : { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" },
  );
}
