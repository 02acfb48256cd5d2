/** The HTTP API, typed from the server's own OpenAPI document. */
import type { components } from "./schema";

type Schemas = components["schemas"];
export type PieceState = Schemas["PieceState"];
export type PieceList = Schemas["PieceList"];
export type Workshop = Schemas["Workshop"];
export type FieldInfo = Schemas["FieldInfo"];
export type ExportState = Schemas["ExportState"];
export type ExportOrder = Partial<Schemas["ExportOrder"]>;
export type Edit = Omit<Schemas["Edit"], "value"> & { value?: unknown };
export type Problem = Schemas["Problem"];
/** What a window sends; its number is given by the connection. */
export type WindowMessage = Omit<Partial<Schemas["WindowMessage"]>, "edits"> & {
  type: Schemas["WindowMessage"]["type"];
  edits?: Edit[];
};
export type FrameHeader = Schemas["FrameHeader"];
export type ServerMessage = PieceState | Schemas["Refusal"] | Schemas["NoPicture"] | Schemas["Stored"];
export type Lamp = PieceState["document"]["light"]["lamps"][number];
export type Block = PieceState["document"]["blocks"][number];
export type LetteringBlock = Extract<Block, { kind: "lettering" }>;
export type ShapeBlock = Extract<Block, { kind: "shape" }>;
export type StrokesBlock = Extract<Block, { kind: "strokes" }>;
export type MarkBlock = Extract<Block, { kind: "mark" }>;
export type Evening = Schemas["Evening"];
export type Form = Block["form"];
export type Bevel = Form["bevel"];
export type Surface = Block["surface"];
export type Material = Surface["face"];
export type Surround = PieceState["document"]["light"]["surround"];
export type SummaryRun = Schemas["SummaryRun"];

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** What a fault says to a person: the server's own words, or else `otherwise`. */
export function told(fault: unknown, otherwise = "the server does not answer"): string {
  return fault instanceof ProblemError ? fault.problem.detail : otherwise;
}

/** The server's answer. Throws its problem as a ProblemError. */
async function call(method: string, path: string, init: RequestInit = {}): Promise<Response> {
  const answer = await fetch(`/api${path}`, { method, ...init });
  if (!answer.ok) throw new ProblemError((await answer.json()) as Problem);
  return answer;
}

function json(body: unknown): RequestInit {
  return { headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) };
}

async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  const answer = await call(method, path, body === undefined ? {} : json(body));
  return answer.status === 204 ? (undefined as T) : ((await answer.json()) as T);
}

/** A picture that the server draws to order, as an address for an image. */
async function picture(path: string, body: unknown): Promise<string> {
  const answer = await call("POST", path, json(body));
  return URL.createObjectURL(await answer.blob());
}

async function keepPanorama(name: string, file: File): Promise<Schemas["PanoramaList"]> {
  return (await (await call("POST", `/panoramas/${name}`, { body: file })).json()) as Schemas["PanoramaList"];
}

async function keepTypeface(file: File): Promise<Schemas["KeptTypefaces"]> {
  return (await (await call("POST", "/typefaces", { body: file })).json()) as Schemas["KeptTypefaces"];
}

async function bringMark(id: string, file: File): Promise<PieceState> {
  const name = encodeURIComponent(file.name.replace(/\.svg$/i, ""));
  return (await (await call("POST", `/pieces/${id}/marks?name=${name}`, { body: file })).json()) as PieceState;
}

export const api = {
  workshop: () => ask<Workshop>("GET", "/workshop"),
  pieces: () => ask<PieceList>("GET", "/pieces"),
  create: () => ask<PieceState>("POST", "/pieces", {}),
  duplicate: (id: string) => ask<PieceState>("POST", `/pieces/${id}/duplicate`),
  remove: (id: string) => ask<void>("DELETE", `/pieces/${id}`),
  restore: (id: string) => ask<PieceState>("POST", `/pieces/${id}/restore`),
  history: (id: string) => ask<Schemas["HistoryList"]>("GET", `/pieces/${id}/history`),
  goTo: (id: string, state: number) => ask<PieceState>("POST", `/pieces/${id}/history/${state}`),
  export: (id: string, order: ExportOrder) => ask<ExportState>("POST", `/pieces/${id}/exports`, order),
  exportState: (id: string) => ask<ExportState>("GET", `/exports/${id}`),
  highlight: (id: string, order: Schemas["HighlightOrder"]) => ask<PieceState>("POST", `/pieces/${id}/highlight`, order),
  coupon: (id: string, material: Material) => picture(`/pieces/${id}/coupon`, { material }),
  surround: (surround: object) => picture("/surround", { surround }),
  panoramas: () => ask<Schemas["PanoramaList"]>("GET", "/panoramas"),
  keepPanorama,
  keepTypeface,
  bringMark,
  evening: (id: string, block: string) => ask<Evening>("GET", `/pieces/${id}/blocks/${block}/evening`),
  fit: (id: string, block: string, typeface: string) =>
    ask<Schemas["SpecimenFit"]>("GET", `/pieces/${id}/blocks/${block}/fits/${typeface}`),
  cancelExport: (id: string) => ask<ExportState>("DELETE", `/exports/${id}`),
};
