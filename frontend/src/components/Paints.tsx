import { useState } from "react";
import type { NamedPaint } from "../api/client";
import { FieldsOf } from "../fields/FieldsOf";
import { usePaints } from "../live/paints";
import { liveNow } from "../live/store";
import { Hint } from "../ui/Notes";
import { Actions } from "../ui/Rows";
import { FoldingSection } from "../ui/Section";
import { TextAction } from "../ui/TextAction";
import { PaintRow } from "./PaintRow";

/** Ways to shift all paints, by a step each. */
const SHIFTS = [
  { says: "Hue −", value: { hue: -10 } },
  { says: "Hue +", value: { hue: 10 } },
  { says: "Darker", value: { lightness: -0.04 } },
  { says: "Lighter", value: { lightness: 0.04 } },
  { says: "Duller", value: { chroma: 0.85 } },
  { says: "Richer", value: { chroma: 1.15 } },
] as const;

/** The paints of the piece in a row; of the one that is picked, what can be set and done. */
export function Paints() {
  const edit = liveNow().edit;
  const paints = usePaints();
  const [picked, setPicked] = useState<string | null>(null);
  const index = paints.findIndex(({ id }) => id === picked);
  const paint = paints[index];
  return (
    <FoldingSection
      title="Paints"
      summary={paints.length ? String(paints.length) : "none"}
      help="Named colours of the piece. A colour becomes one in its picker; where it is used, all follow it."
    >
      {paints.length === 0 && <Hint>Open a colour’s picker and choose “Make it a paint”.</Hint>}
      <PaintRow
        label="Paints"
        className="py-1"
        paints={paints}
        chosen={paint}
        onChoose={(other) => setPicked(other.id === picked ? null : other.id)}
      />
      {paint && <OnePaint paint={paint} path={`/paints/${index}`} />}
      {paints.length > 0 && (
        <div role="group" aria-label="Shift all paints" className="flex flex-wrap gap-3 pt-1">
          {SHIFTS.map(({ says, value }) => (
            <TextAction key={says} onClick={() => edit([{ op: "shift-paints", path: "/paints", value }])}>
              {says}
            </TextAction>
          ))}
        </div>
      )}
    </FoldingSection>
  );
}

function OnePaint({ paint, path }: { paint: NamedPaint; path: string }) {
  const edit = liveNow().edit;
  return (
    <>
      <FieldsOf model="NamedPaint" path={path} values={paint} />
      <Actions>
        {paint.of === null ? (
          <TextAction onClick={() => edit([{ op: "tones", path }])}>Add its tones</TextAction>
        ) : (
          <TextAction onClick={() => edit([{ op: "replace", path: `${path}/of`, value: null }])}>Make it its own</TextAction>
        )}
        <TextAction onClick={() => edit([{ op: "unpaint", path }])}>Remove paint</TextAction>
      </Actions>
    </>
  );
}
