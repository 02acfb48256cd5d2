import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, type LetteringBlock, type Workshop } from "../../api/client";
import { shown } from "../../fields/NumberField";
import { liveNow, useDocument, useLive } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Choice } from "../../ui/Choice";
import { Remark } from "../../ui/Notes";
import { Popover } from "../../ui/Popover";
import { ScrollArea } from "../../ui/ScrollArea";
import { OwnTypeface } from "./OwnTypeface";

type Typeface = Workshop["typefaces"][number];
const ORDERS = ["kind", "heaviness", "name"] as const;
type Order = (typeof ORDERS)[number];

/** The typeface in use; behind it all others, each in the artist's own words as a quick solid of the present form. */
export function TypefaceBrowser({ block, path }: { block: LetteringBlock; path: string }) {
  const { typefaces, damaged } = useWorkshop();
  const [open, setOpen] = useState(false);
  const [order, setOrder] = useState<Order>("kind");
  const [sought, setSought] = useState("");
  const edit = liveNow().edit;
  const face = typefaces.find((entry) => entry.id === block.typeface);
  const made = face ? `${face.kind}, heaviness ${shown(face.heaviness)}` : "";
  const listed = sorted(typefaces, order).filter((entry) => matches(entry, sought));
  return (
    <div>
      <Popover
        label="Typefaces"
        side="left"
        align="start"
        sideOffset={12}
        className="w-[min(640px,100vw-48px)]"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button
            type="button"
            data-part="typeface"
            className="flex w-full items-baseline justify-between gap-2 border border-rule-firm bg-sheet px-2.5 py-2 text-left hover:bg-paper-recess"
            aria-label={`Typeface: ${face?.name ?? block.typeface} ${made}`}
          >
            <b>{face?.name ?? block.typeface}</b> <small className="text-ink-3">{made}</small>
          </button>
        }
      >
        <header className="flex flex-wrap items-center justify-between gap-3.5 pb-2">
          <label className="flex items-center gap-2">
            Find
            <input
              type="search"
              className="h-7 w-[150px] rounded-sheet border border-rule-firm bg-sheet px-1.5"
              value={sought}
              onChange={(event) => setSought(event.target.value)}
            />
          </label>
          <Choice label="Sort by" value={order} options={ORDERS} onChoose={setOrder} />
          <OwnTypeface path={path} />
        </header>
        {listed.length === 0 && <Remark>No typeface matches. Search by name or kind, such as “slab”.</Remark>}
        <ScrollArea className="border border-rule bg-sheet" upTo="max-h-[min(70vh,560px)]">
          <ul data-part="typefaces" className="grid grid-cols-2">
            {listed.map((entry) => (
              <li key={entry.id}>
                <button
                  type="button"
                  className="grid w-full grid-cols-[1fr_auto] items-baseline gap-x-2 px-2.5 py-1.5 text-left hover:bg-paper-recess focus-visible:-outline-offset-2 aria-pressed:font-[650] aria-pressed:shadow-[inset_3px_0_var(--color-verdigris)]"
                  aria-pressed={entry.id === block.typeface}
                  onClick={() => edit([{ op: "replace", path: `${path}/typeface`, value: entry.id }])}
                >
                  <Specimen face={entry} block={block} />
                </button>
              </li>
            ))}
          </ul>
        </ScrollArea>
        {damaged.map((entry) => (
          <Remark key={entry.id}>
            {entry.name}: {entry.text}
          </Remark>
        ))}
      </Popover>
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
        className="col-span-full aspect-[272/64] h-auto w-full bg-paper-recess"
        width={272}
        height={64}
        loading="lazy"
        onLoad={() => setDrawn(true)}
      />
      <span>{face.name}</span>
      <small className="text-caption text-ink-3">
        {[face.kind, face.axes.length && "variable", `heaviness ${shown(face.heaviness)}`].filter(Boolean).join(", ")}
      </small>
      {fit?.text && (
        <small data-part="too-thin" className="col-span-full text-caption text-madder">
          too thin: {fit.text}
        </small>
      )}
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
