import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useDeferredValue, useState } from "react";
import { api, type LetteringBlock, type Workshop } from "../../api/client";
import { Choice } from "../../components/Choice";
import { shown } from "../../fields/NumberField";
import { liveNow, useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { OwnTypeface } from "./OwnTypeface";

type Typeface = Workshop["typefaces"][number];
const ORDERS = ["kind", "heaviness", "name"] as const;
type Order = (typeof ORDERS)[number];

/** The typeface in use; behind it all others, each in the artist's own words as a quick solid of the present form. */
export function TypefaceBrowser({ block, path }: { block: LetteringBlock; path: string }) {
  const workshop = useWorkshop();
  const typefaces = workshop?.typefaces;
  const [open, setOpen] = useState(false);
  const [order, setOrder] = useState<Order>("kind");
  const [sought, setSought] = useState("");
  const edit = liveNow().edit;
  const face = typefaces?.find((entry) => entry.id === block.typeface);
  const made = face ? `${face.kind}, heaviness ${shown(face.heaviness)}` : "";
  const listed = sorted(typefaces ?? [], order).filter((entry) => matches(entry, sought));
  return (
    <div className="typeface-row">
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger className="typeface-trigger" aria-label={`Typeface: ${face?.name ?? block.typeface} ${made}`}>
          <b>{face?.name ?? block.typeface}</b> <small>{made}</small>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className="popover typeface-browser" side="left" align="start" sideOffset={12} aria-label="Typefaces">
            <header>
              <label>
                Find
                <input type="search" value={sought} onChange={(event) => setSought(event.target.value)} />
              </label>
              <Choice label="Sort by" value={order} options={ORDERS} onChoose={setOrder} />
              <OwnTypeface path={path} />
            </header>
            {listed.length === 0 && <p className="aside">No typeface matches. Search by name or kind, such as “slab”.</p>}
            <ul className="typefaces">
              {listed.map((entry) => (
                <li key={entry.id}>
                  <button
                    type="button"
                    aria-pressed={entry.id === block.typeface}
                    onClick={() => edit([{ op: "replace", path: `${path}/typeface`, value: entry.id }])}
                  >
                    <Specimen face={entry} block={block} />
                  </button>
                </li>
              ))}
            </ul>
            {workshop?.damaged.map((entry) => (
              <p className="aside" key={entry.id}>
                {entry.name}: {entry.text}
              </p>
            ))}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}

/** The words in one typeface, and whether it is too thin for the form. */
function Specimen({ face, block }: { face: Typeface; block: LetteringBlock }) {
  const id = useLive((live) => live.piece?.id ?? "");
  const { light } = useDocument();
  // What the picture depends on; a new one is asked for when the hand rests.
  const of = useDeferredValue(
    fingerprint([block.words, block.form, block.surface, block.case, block.size, block.tracking, light]),
  );
  const [drawn, setDrawn] = useState(false);
  const fit = useQuery({
    queryKey: ["fit", id, block.id, face.id, of],
    queryFn: () => api.fit(id, block.id, face.id),
    enabled: drawn,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  }).data;
  return (
    <>
      <img
        src={`/api/pieces/${id}/blocks/${block.id}/specimens/${face.id}?of=${of}`}
        alt=""
        width={272}
        height={64}
        loading="lazy"
        onLoad={() => setDrawn(true)}
      />
      <span>{face.name}</span>
      <small>
        {[face.kind, face.axes.length && "variable", `heaviness ${shown(face.heaviness)}`].filter(Boolean).join(", ")}
      </small>
      {fit?.text && <small className="too-thin">too thin: {fit.text}</small>}
    </>
  );
}

function sorted(faces: readonly Typeface[], order: Order): Typeface[] {
  const found = [...faces];
  if (order === "heaviness") return found.sort((a, b) => b.heaviness - a.heaviness);
  if (order === "name") return found.sort((a, b) => a.name.localeCompare(b.name));
  return found.sort((a, b) => a.kind.localeCompare(b.kind) || a.name.localeCompare(b.name));
}

function matches(face: Typeface, sought: string): boolean {
  return `${face.name} ${face.kind}`.toLowerCase().includes(sought.trim().toLowerCase());
}

/** A short number for a value, so that the browser keeps the picture of each. */
function fingerprint(value: unknown): string {
  let hash = 5381;
  for (const character of JSON.stringify(value)) hash = ((hash * 33) ^ character.charCodeAt(0)) >>> 0;
  return hash.toString(36);
}
