import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type LightByTones, messageOf } from "../../api/client";
import { shown } from "../../fields/NumberField";
import { liveNow, useLive } from "../../live/store";
import { Button } from "../../ui/Button";
import { Fault, Hint } from "../../ui/Notes";
import { FoldingSection } from "../../ui/Section";
import { Swatch } from "../../ui/Swatch";
import { TextAction } from "../../ui/TextAction";
import { useWaiting } from "../../ui/useWaiting";

/** How light each part is in the finished picture, and the light that makes it as light as is wanted. */
export function Tones() {
  return (
    <FoldingSection
      title="Light by tones"
      summary="by L*"
      help="How light each part is in the finished picture, as L* from 0 (black) to 100 (white). Type what you want: lamps and cards are made as strong as it takes."
    >
      <ByTones />
    </FoldingSection>
  );
}

function ByTones() {
  const id = useLive((live) => live.piece?.id ?? "");
  const revision = useLive((live) => live.piece?.revision ?? 0);
  const measured = useQuery({
    queryKey: ["tones", id, revision],
    queryFn: () => api.tones(id),
    placeholderData: (before) => before,
    retry: false,
  });
  const [wanted, setWanted] = useState<Record<string, string>>({});
  const [answer, setAnswer] = useState<LightByTones | null>(null);
  const [fault, setFault] = useState("");
  const [waiting, run] = useWaiting();

  async function solve(tones: Record<string, number>) {
    setFault("");
    try {
      const solved = await api.lightByTones(id, tones);
      setAnswer(solved);
      liveNow().edit(solved.edits);
      setWanted({});
    } catch (error) {
      setFault(messageOf(error));
    }
  }

  // What is no number goes as it is: the server says what is wrong with it.
  const typed = () =>
    Object.fromEntries(
      Object.entries(wanted)
        .filter(([, text]) => text.trim() !== "")
        .map(([part, text]) => [part, Number.isNaN(Number(text)) ? (text as unknown as number) : Number(text)]),
    );
  if (measured.error) return <Fault>{messageOf(measured.error)}</Fault>;
  const missed = answer?.reached.filter((part) => part.reason) ?? [];
  return (
    <>
      <table data-part="tones" className="w-full border-collapse">
        <thead>
          <tr className="text-caption text-ink-3">
            <th className="py-0.5 text-left font-normal">Part</th>
            <th className="py-0.5 text-right font-normal">Now, L*</th>
            <th className="py-0.5 text-right font-normal">Wanted</th>
          </tr>
        </thead>
        <tbody>
          {measured.data?.parts.map(({ part, tone }) => (
            <tr key={part} className="border-t border-rule">
              <th scope="row" className="py-1 text-left font-semibold first-letter:uppercase">
                <Swatch of="small" colour={`lab(${tone}% 0 0)`} className="mr-2 align-[-3px]" />
                {part}
              </th>
              <td className="py-1 text-right tabular-nums">{shown(Math.round(tone))}</td>
              <td className="py-1 text-right">
                <input
                  aria-label={`Wanted lightness of the ${part}`}
                  inputMode="decimal"
                  autoComplete="off"
                  placeholder={shown(Math.round(tone))}
                  className="w-14 rounded-sheet border border-rule-firm bg-sheet px-1.5 py-0.5 text-right"
                  value={wanted[part] ?? ""}
                  onChange={(event) => setWanted({ ...wanted, [part]: event.target.value })}
                  onKeyDown={(event) => event.key === "Enter" && void run(() => solve(typed()))}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button wide waiting={waiting} onClick={() => void run(() => solve(typed()))}>
        Light it so
      </Button>
      {fault && <Fault>{fault}</Fault>}
      {missed.map((part) => (
        <Hint key={part.part}>
          {part.reached === null
            ? `The ${part.part} has no tone: ${part.reason}.`
            : `The ${part.part} gets ${shown(part.reached)} in place of ${shown(part.wanted)}: ${part.reason}.`}
        </Hint>
      ))}
      {measured.data?.advice.map((said) => (
        <p key={said.text} className="pt-1.5 text-small">
          {said.text}{" "}
          <TextAction waiting={waiting} onClick={() => void run(() => solve(said.wanted))}>
            {said.label}
          </TextAction>
        </p>
      ))}
    </>
  );
}
