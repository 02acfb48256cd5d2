import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type ExportOrder, type ExportState, ProblemError } from "../../api/client";
import { useLive } from "../../live/store";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Fault, Hint } from "../../ui/Notes";
import { Progress } from "../../ui/Progress";
import { Columns } from "../../ui/Rows";
import { Section } from "../../ui/Section";
import { TextAction, TextLink } from "../../ui/TextAction";
import { TextInput } from "../../ui/TextInput";
import { Tick } from "../../ui/Tick";
import { useWaiting } from "../../ui/useWaiting";

const FORMATS = ["png", "jpg", "webp", "tiff", "exr"] as const;

/** A number as typed, none where left empty. What is no number goes as it is: the server says what is wrong with it. */
function typed(text: string, unit = 1): number | null {
  if (text.trim() === "") return null;
  const value = Number(text.replace(",", "."));
  return Number.isNaN(value) ? (text as unknown as number) : value * unit;
}

/** A picture file of any size, made in the background from the piece as it stands. */
export function ExportStation() {
  const piece = useLive((live) => live.piece);
  const [order, setOrder] = useState<ExportOrder>({ format: "png", quality: "final", transparent: false, depth: 8 });
  const [size, setSize] = useState({ width: String(piece?.document.canvas.width ?? 1280), height: "" });
  const [noise, setNoise] = useState("");
  const [job, setJob] = useState<string | null>(null);
  const [fault, setFault] = useState("");
  const [waiting, run] = useWaiting();
  const put = (change: ExportOrder) => setOrder({ ...order, ...change });

  async function start() {
    setFault("");
    try {
      const asked = await api.export(piece?.id ?? "", {
        ...order,
        // Only OpenEXR holds layers.
        layers: order.format === "exr" && order.layers,
        noise: typed(noise, 0.01),
        width: typed(size.width),
        height: typed(size.height),
      });
      setJob(asked.id);
    } catch (error) {
      setFault(error instanceof ProblemError ? `${error.problem.field ?? ""} ${error.problem.detail}`.trim() : String(error));
    }
  }

  return (
    <>
      <Section title="Size" help="Size of the picture in px. Fill in one side to keep the shape of the canvas.">
        <Columns>
          {(["width", "height"] as const).map((name) => (
            <TextInput
              key={name}
              label={name === "width" ? "Width, px" : "Height, px"}
              inputMode="numeric"
              placeholder="automatic"
              value={size[name]}
              onChange={(event) => setSize({ ...size, [name]: event.target.value })}
            />
          ))}
        </Columns>
        <Hint>Leave one side empty to keep the shape of the canvas.</Hint>
      </Section>
      <Section title="File" help="File format, quality, and what is included.">
        <Choice label="Format" hideLabel value={order.format ?? "png"} options={FORMATS} onChoose={(format) => put({ format })} />
        {order.format === "png" && (
          <Choice
            label="Bits per channel"
            value={String(order.depth)}
            options={["8", "16"]}
            onChoose={(depth) => put({ depth: depth === "16" ? 16 : 8 })}
          />
        )}
        <Choice
          label="Quality"
          value={order.quality ?? "final"}
          options={["proof", "final"]}
          onChoose={(quality) => put({ quality })}
        />
        <Tick
          label="Transparent backdrop, keep the shadow"
          on={order.transparent ?? false}
          onChange={(transparent) => put({ transparent })}
        />
        {order.format === "exr" && (
          <Tick
            label="Separate layers: lights, masks, shadow, depth and more"
            on={order.layers ?? false}
            onChange={(layers) => put({ layers })}
          />
        )}
        <TextInput
          label="Noise, % (by quality where empty)"
          inputMode="decimal"
          placeholder="automatic"
          value={noise}
          onChange={(event) => setNoise(event.target.value)}
        />
      </Section>
      <Button wide waiting={waiting} onClick={() => void run(start)}>
        Make the file
      </Button>
      {fault && <Fault>{fault}</Fault>}
      {job && <Job id={job} />}
      <Section title="Vectors" help="Letters, shapes and marks as flat outlines, for cutters, plotters and drawing programs.">
        <TextLink href={`/api/pieces/${piece?.id}/outlines`} download>
          Flat outlines (SVG)
        </TextLink>
      </Section>
    </>
  );
}

/** How long the rest will take, if it goes on as it did since the first share was done. */
function secondsLeft(began: { at: number; share: number } | null, share: number): number | null {
  if (!began || share - began.share < 0.05) return null;
  return ((performance.now() - began.at) / 1000 / (share - began.share)) * (1 - share);
}

function Job({ id }: { id: string }) {
  const [began, setBegan] = useState<{ at: number; share: number } | null>(null);
  const [waiting, run] = useWaiting();
  const state = useQuery({
    queryKey: ["export", id],
    queryFn: () => api.exportState(id),
    refetchInterval: (query) =>
      ["waiting", "rendering"].includes((query.state.data as ExportState | undefined)?.status ?? "waiting") ? 300 : false,
  }).data;
  if (!state) return null;
  if (!began && state.share > 0) setBegan({ at: performance.now(), share: state.share });
  const running = state.status === "waiting" || state.status === "rendering";
  const left = state.status === "rendering" ? secondsLeft(began, state.share) : null;
  return (
    <div data-part="job" className="mt-3 border border-rule bg-sheet px-3 py-2" role="status">
      <p>
        {running
          ? `Rendering, ${Math.round(state.share * 100)} %${left === null ? "" : `, ready in about ${Math.max(Math.round(left), 1)} s`}`
          : state.status === "done"
            ? "The file is ready."
            : state.message}
      </p>
      {running && <Progress label="Export" share={state.share} />}
      {running && (
        <TextAction waiting={waiting} onClick={() => void run(() => api.cancelExport(id))}>
          Cancel
        </TextAction>
      )}
      {state.status === "done" && (
        <TextLink href={`/api/exports/${id}/file`} download>
          Download {state.format.toUpperCase()}
        </TextLink>
      )}
    </div>
  );
}
