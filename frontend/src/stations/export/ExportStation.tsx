import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type ExportOrder, type ExportState, ProblemError } from "../../api/client";
import { Choice } from "../../components/Choice";
import { Group } from "../../components/Group";
import { Tick } from "../../components/Tick";
import { useLive } from "../../live/store";

const FORMATS = ["png", "jpg", "webp", "tiff", "exr"] as const;

/** A side left empty follows the canvas' shape. */
function side(text: string): number | null {
  return text.trim() === "" ? null : Number(text);
}

/** A picture file of any size, made in the background from the piece as it stands. */
export function ExportStation() {
  const piece = useLive((live) => live.piece);
  const [order, setOrder] = useState<ExportOrder>({ format: "png", quality: "final", transparent: false, depth: 8 });
  const [size, setSize] = useState({ width: String(piece?.document.canvas.width ?? 1280), height: "" });
  const [job, setJob] = useState<string | null>(null);
  const [fault, setFault] = useState("");
  const put = (change: ExportOrder) => setOrder({ ...order, ...change });

  async function start() {
    setFault("");
    try {
      const asked = await api.export(piece?.id ?? "", { ...order, width: side(size.width), height: side(size.height) });
      setJob(asked.id);
    } catch (error) {
      setFault(error instanceof ProblemError ? `${error.problem.field ?? ""} ${error.problem.detail}`.trim() : String(error));
    }
  }

  return (
    <>
      <Group title="Size">
        <div className="pair">
          {(["width", "height"] as const).map((name) => (
            <label key={name} className="text-field">
              {name === "width" ? "Width, px" : "Height, px"}
              <input
                inputMode="numeric"
                placeholder="by shape"
                value={size[name]}
                onChange={(event) => setSize({ ...size, [name]: event.target.value })}
              />
            </label>
          ))}
        </div>
        <p className="hint">Leave one side empty to keep the shape of the canvas.</p>
      </Group>
      <Group title="File">
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
          label="Transparent backdrop, shadow kept"
          on={order.transparent ?? false}
          onChange={(transparent) => put({ transparent })}
        />
      </Group>
      <button type="button" className="deliver wide" onClick={() => void start()}>
        Make the file
      </button>
      {fault && (
        <p className="fault" role="alert">
          {fault}
        </p>
      )}
      {job && <Job id={job} />}
    </>
  );
}

function Job({ id }: { id: string }) {
  const state = useQuery({
    queryKey: ["export", id],
    queryFn: () => api.exportState(id),
    refetchInterval: (query) =>
      ["waiting", "rendering"].includes((query.state.data as ExportState | undefined)?.status ?? "waiting") ? 300 : false,
  }).data;
  if (!state) return null;
  const running = state.status === "waiting" || state.status === "rendering";
  return (
    <div className="job" role="status">
      <p>
        {running
          ? `Rendering, ${Math.round(state.share * 100)} %`
          : state.status === "done"
            ? "The file is ready."
            : state.message}
      </p>
      {running && <progress value={state.share} aria-label="Export" />}
      {running && (
        <button type="button" className="text-action" onClick={() => void api.cancelExport(id)}>
          Cancel
        </button>
      )}
      {state.status === "done" && (
        <a className="text-action" href={`/api/exports/${id}/file`} download>
          Download {state.format.toUpperCase()}
        </a>
      )}
    </div>
  );
}
