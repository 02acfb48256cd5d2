import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { api } from "../api/client";
import { useLive } from "../live/store";

/** Every state the piece ever had, with a small picture: step to any of them, and go on from there. */
export function HistoryMenu() {
  const piece = useLive((live) => live.piece);
  const [shown, setShown] = useState(false);
  const list = useQuery({
    queryKey: ["history", piece?.id, piece?.revision],
    queryFn: () => api.history(piece?.id ?? ""),
    enabled: shown && piece !== null,
    placeholderData: (before) => before,
  }).data;
  if (!piece) return null;
  return (
    <Popover.Root open={shown} onOpenChange={setShown}>
      <Popover.Trigger className="step worded">History</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="popover history-menu" align="end" sideOffset={6} aria-label="History">
          <p className="aside">Return to any earlier state. Nothing that came after it is lost.</p>
          <ol>
            {list?.entries.map((entry) => (
              <li key={entry.id}>
                <button
                  type="button"
                  aria-current={entry.present ? "step" : undefined}
                  className={entry.kept ? undefined : "other-branch"}
                  onClick={() => void api.goTo(piece.id, entry.id)}
                >
                  <img src={`/api/pieces/${piece.id}/history/${entry.id}/thumbnail?at=${at(entry)}`} alt="" loading="lazy" />
                  <span>{entry.label}</span>
                  <time dateTime={new Date(entry.created * 1000).toISOString()}>{clock(entry.created)}</time>
                  {!entry.kept && <small>other branch</small>}
                </button>
              </li>
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
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
