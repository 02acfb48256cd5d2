import { create } from "zustand";
import type { Effect } from "../../api/client";
import { Advice } from "../../components/AdviceOf";
import { FieldsOf } from "../../fields/FieldsOf";
import { AddLayer, Layers } from "../../fields/Layers";
import { deskNow, useDesk } from "../../live/desk";
import { liveNow, useDocument } from "../../live/store";
import { useWorkshop } from "../../live/workshop";
import { Hint } from "../../ui/Notes";
import { Section } from "../../ui/Section";
import { TextAction } from "../../ui/TextAction";
import { EffectList } from "./EffectList";
import { ToneCurve } from "./ToneCurve";
import { titled } from "./titled";

/** What there is to finish a picture with, in the order of the work, and what each does. */
const EFFECTS = {
  wash: "Gradients, patterns and pictures laid over the canvas: a glow behind the letters, paper, a flare.",
  keyline: "A line exactly along outlines, as the camera sees them, or where graphic tones change.",
  halo: "Light about the letters, or along their edges within them.",
  bloom: "Bright light spreads as in a lens; none is lost.",
  blur: "What lies behind or before a distance goes out of focus.",
  glints: "Stars at the brightest spots, where the light truly is.",
  gloss: "A lighter band over the upper part of the faces.",
  tone: "Lightness, contrast, saturation, hue and tints, as they are seen.",
  vignette: "Darker, or lighter, towards the edges of the picture.",
  grain: "Grain of film, strongest in the middle tones.",
  sharpen: "Edges made crisper.",
  fringe: "Red and blue part towards the corners, as in a simple lens.",
} as const satisfies Record<Effect["kind"], string>;

/** The stack that was copied last in this window. */
const useCopied = create<{ stack: Effect[] | null }>(() => ({ stack: null }));

const KINDS = Object.keys(EFFECTS) as Effect["kind"][];
/** Whichever is the last by then: what was added shows when it has arrived. */
const LAST = Number.POSITIVE_INFINITY;

/** What is done to the picture once it is rendered: a stack of effects, the first one first. */
export function FinishStation() {
  const effects = useDocument().finish;
  const usual = useWorkshop().usual_effects;
  const { bare, showBare, effect: picked, pickEffect: setPicked } = useDesk();
  const copied = useCopied(({ stack }) => stack);
  const edit = liveNow().edit;
  const at = Math.min(picked, effects.length - 1);
  const effect = effects[at];

  function add(kind: Effect["kind"]) {
    edit([{ op: "add", path: "/finish/-", value: { kind } }]);
    setPicked(LAST);
  }

  function move(from: number, to: number) {
    const order = [...effects];
    order.splice(to, 0, ...order.splice(from, 1));
    edit([{ op: "replace", path: "/finish", value: order }]);
    setPicked(to);
  }

  return (
    <>
      <Section
        title="Effects"
        help="They work on the rendered picture, one after another, and render nothing anew."
        actions={
          effects.length > 0 && (
            <TextAction aria-pressed={bare} title="F, for as long as it is held" onClick={() => showBare(!bare)}>
              {bare ? "Show them" : "Hide them all"}
            </TextAction>
          )
        }
      >
        {effects.length === 0 && <Hint>Add one below. Each can be switched off, moved and taken away again.</Hint>}
        <Advice station="finish" />
        <EffectList effects={effects} at={at} onPick={setPicked} onMove={move} />
        <p className="flex flex-wrap justify-end gap-x-3 gap-y-2 pt-1">
          <TextAction disabled={effects.length === 0} onClick={() => useCopied.setState({ stack: [...effects] })}>
            Copy all
          </TextAction>
          <TextAction
            disabled={copied === null}
            title="In place of those of this piece"
            onClick={() => edit([{ op: "replace", path: "/finish", value: copied }])}
          >
            Paste
          </TextAction>
          {KINDS.map((kind) => (
            <TextAction key={kind} title={EFFECTS[kind]} onClick={() => add(kind)}>
              Add {kind}
            </TextAction>
          ))}
        </p>
      </Section>
      {effect && (
        <Section
          title={titled(effect.kind)}
          help={EFFECTS[effect.kind]}
          actions={
            <span className="flex gap-3">
              <TextAction disabled={at === 0} onClick={() => move(at, at - 1)}>
                Earlier
              </TextAction>
              <TextAction disabled={at === effects.length - 1} onClick={() => move(at, at + 1)}>
                Later
              </TextAction>
              <TextAction onClick={() => edit([{ op: "remove", path: `/finish/${at}` }])}>Remove</TextAction>
            </span>
          }
        >
          <p className="flex flex-wrap gap-x-3 gap-y-2 pb-1">
            <span className="text-small text-ink-3">Begin with</span>
            {usual
              .filter((entry) => entry.effect.kind === effect.kind)
              .map(({ name, effect: set }) => (
                <TextAction
                  key={name}
                  title="Sets all its numbers; undo brings back what was"
                  onClick={() => edit([{ op: "replace", path: `/finish/${at}`, value: { ...set, on: effect.on } }])}
                >
                  {name}
                </TextAction>
              ))}
          </p>
          <FieldsOf model={titled(effect.kind)} path={`/finish/${at}`} values={effect} over="canvas" />
          {effect.kind === "tone" && <ToneCurve tone={effect} at={at} />}
          <FieldsOf model={titled(effect.kind)} path={`/finish/${at}`} values={effect} group="curve" />
          {effect.kind === "glints" && <Spots spots={effect.spots} path={`/finish/${at}/spots`} />}
          {effect.kind === "wash" && (
            <>
              <Layers
                of="the wash"
                path={`/finish/${at}/layers`}
                layers={effect.layers}
                holderWith={(layers) => ({ layers })}
                over="canvas"
              />
              <AddLayer
                of="the wash"
                add={(layer) => edit([{ op: "add", path: `/finish/${at}/layers/-`, value: { kind: layer } }])}
              />
            </>
          )}
        </Section>
      )}
    </>
  );
}

/** The spots where stars were placed by hand: typed, or dragged on the stage. */
function Spots({ spots, path }: { spots: Extract<Effect, { kind: "glints" }>["spots"]; path: string }) {
  const edit = liveNow().edit;
  const placing = useDesk((desk) => desk.tool === "glint");
  return (
    <>
      {spots.map((spot, index) => (
        <div key={index} role="group" aria-label={`Spot ${index + 1} of ${spots.length}`} className="flex items-end gap-2">
          <div className="grow">
            <FieldsOf model="GlintSpot" path={`${path}/${index}`} values={spot} />
          </div>
          <TextAction onClick={() => edit([{ op: "remove", path: `${path}/${index}` }])}>Remove</TextAction>
        </div>
      ))}
      <p className="text-right">
        <TextAction aria-pressed={placing} onClick={() => deskNow().take(placing ? null : "glint")}>
          {placing ? "Placing: click where light is" : "Place one on the stage"}
        </TextAction>
      </p>
    </>
  );
}
