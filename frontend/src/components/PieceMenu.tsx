import { useQuery, useQueryClient } from "@tanstack/react-query";
import { ChevronDown } from "lucide-react";
import { useState } from "react";
import { api } from "../api/client";
import { liveNow, useLive } from "../live/store";
import { Popover } from "../ui/Popover";
import { Actions } from "../ui/Rows";
import { SectionTitle } from "../ui/SectionTitle";
import { TextAction, TextLink } from "../ui/TextAction";
import { TextInput } from "../ui/TextInput";
import { useWaiting } from "../ui/useWaiting";
import { FileButton } from "./FileButton";

/** The open piece's name; behind it all pieces, and what can be done with this one. */
export function PieceMenu({ onOpen }: { onOpen: (id: string) => void }) {
  const piece = useLive((live) => live.piece);
  const edit = liveNow().edit;
  const client = useQueryClient();
  const [shown, setShown] = useState(false);
  const [name, setName] = useState<string | null>(null);
  const [waiting, run] = useWaiting();
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
    <Popover
      label="Pieces"
      align="start"
      sideOffset={6}
      className="w-75"
      upTo="max-h-[70vh]"
      open={shown}
      onOpenChange={(open) => {
        setShown(open);
        if (open) void refresh();
      }}
      trigger={
        <button
          type="button"
          data-part="piece-name"
          className="flex max-w-60 items-center gap-2 overflow-hidden py-1 font-semibold"
        >
          {piece.document.name}
          <ChevronDown size={14} className="shrink-0" aria-hidden="true" />
        </button>
      }
    >
      <TextInput
        label="Name"
        value={name ?? piece.document.name}
        maxLength={120}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && rename()}
        onBlur={rename}
      />
      <Actions>
        <TextAction waiting={waiting} onClick={() => void run(async () => go((await api.create()).id))}>
          New piece
        </TextAction>
        <TextAction waiting={waiting} onClick={() => void run(async () => go((await api.duplicate(piece.id)).id))}>
          Duplicate
        </TextAction>
        <TextAction waiting={waiting} onClick={() => void run(() => putAside(piece.id))}>
          Delete
        </TextAction>
      </Actions>
      <Actions>
        <FileButton name="Piece" accept=".halvex" take={async (file) => go((await api.openBundle(file)).id)}>
          Open a file (.halvex)
        </FileButton>
        <TextLink href={`/api/pieces/${piece.id}/bundle`} download>
          Save as a file
        </TextLink>
      </Actions>
      <SectionTitle apart>Pieces</SectionTitle>
      <ul>
        {list?.pieces.map((entry) => (
          <li key={entry.id}>
            <button
              type="button"
              className="flex w-full items-center gap-3 p-1 text-left hover:bg-paper-recess aria-[current]:font-[650] aria-[current]:shadow-[inset_3px_0_var(--color-verdigris)]"
              aria-current={entry.id === piece.id ? "true" : undefined}
              onClick={() => go(entry.id)}
            >
              <img
                src={`/api/pieces/${entry.id}/thumbnail?at=${entry.updated}`}
                alt=""
                className="h-9 w-16 bg-paper-recess object-cover"
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
          <SectionTitle apart>Deleted</SectionTitle>
          <ul>
            {list.deleted.map((entry) => (
              <li key={entry.id} className="flex justify-between p-1">
                {entry.name}
                <TextAction
                  aria-label={`Restore ${entry.name}`}
                  waiting={waiting}
                  onClick={() => void run(async () => go((await api.restore(entry.id)).id))}
                >
                  Restore
                </TextAction>
              </li>
            ))}
          </ul>
        </>
      )}
    </Popover>
  );
}
