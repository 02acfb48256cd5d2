import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { api } from "../api/client";
import { liveNow, useLive } from "../live/store";

/** The open piece's name; behind it all pieces, and what can be done with this one. */
export function PieceMenu({ onOpen }: { onOpen: (id: string) => void }) {
  const piece = useLive((live) => live.piece);
  const edit = liveNow().edit;
  const client = useQueryClient();
  const [shown, setShown] = useState(false);
  const [name, setName] = useState<string | null>(null);
  const list = useQuery({ queryKey: ["pieces"], queryFn: api.pieces, enabled: shown }).data;
  if (!piece) return null;

  const refresh = () => client.invalidateQueries({ queryKey: ["pieces"] });
  const go = (id: string) => {
    setShown(false);
    onOpen(id);
  };

  function rename() {
    const next = name?.trim();
    if (next && next !== piece?.document.name) edit([{ op: "replace", path: "/name", value: next }]);
    setName(null);
  }

  async function putAside(id: string) {
    await api.remove(id);
    const left = (await api.pieces()).pieces[0];
    await refresh();
    if (id === piece?.id) onOpen(left ? left.id : (await api.create()).id);
  }

  return (
    <Popover.Root
      open={shown}
      onOpenChange={(open) => {
        setShown(open);
        if (open) void refresh();
      }}
    >
      <Popover.Trigger className="piece-name">
        {piece.document.name}
        <svg viewBox="0 0 10 6" width="9" aria-hidden="true">
          <path d="M1 1l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="popover piece-menu" align="start" sideOffset={6} aria-label="Pieces">
          <label className="text-field">
            Name
            <input
              value={name ?? piece.document.name}
              maxLength={120}
              onChange={(event) => setName(event.target.value)}
              onKeyDown={(event) => event.key === "Enter" && rename()}
              onBlur={rename}
            />
          </label>
          <p className="row-actions">
            <button type="button" className="text-action" onClick={async () => go((await api.create()).id)}>
              New piece
            </button>
            <button type="button" className="text-action" onClick={async () => go((await api.duplicate(piece.id)).id)}>
              Duplicate
            </button>
            <button type="button" className="text-action" onClick={() => void putAside(piece.id)}>
              Delete
            </button>
          </p>
          <h3>Pieces</h3>
          <ul>
            {list?.pieces.map((entry) => (
              <li key={entry.id}>
                <button type="button" aria-current={entry.id === piece.id ? "true" : undefined} onClick={() => go(entry.id)}>
                  <img
                    src={`/api/pieces/${entry.id}/thumbnail?at=${entry.updated}`}
                    alt=""
                    width="64"
                    height="36"
                    loading="lazy"
                  />
                  {entry.name}
                </button>
              </li>
            ))}
          </ul>
          {!!list?.deleted.length && (
            <>
              <h3>Deleted</h3>
              <ul>
                {list.deleted.map((entry) => (
                  <li key={entry.id} className="put-aside">
                    {entry.name}
                    <button
                      type="button"
                      className="text-action"
                      aria-label={`Restore ${entry.name}`}
                      onClick={async () => go((await api.restore(entry.id)).id)}
                    >
                      Restore
                    </button>
                  </li>
                ))}
              </ul>
            </>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
