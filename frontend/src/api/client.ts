/** The HTTP API, typed from the server's own OpenAPI document. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type PieceState = Schemas["PieceState"];
export type Workshop = Schemas["Workshop"];
export type FieldInfo = Schemas["FieldInfo"];
export type PlainField = Schemas["PlainField"];
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
export type ServerMessage =
  | PieceState
  | Schemas["Refusal"]
  | Schemas["NoPicture"]
  | Schemas["Stored"]
  | Schemas["Preparing"]
  | Schemas["Outlook"];
export type Lamp = PieceState["document"]["light"]["lamps"][number];
export type Block = PieceState["document"]["blocks"][number];
export type BlockDrawing = PieceState["drawings"]["blocks"][number];
export type LetteringBlock = Extract<Block, { kind: "lettering" }>;
export type ShapeBlock = Extract<Block, { kind: "shape" }>;
export type StrokesBlock = Extract<Block, { kind: "strokes" }>;
export type MarkBlock = Extract<Block, { kind: "mark" }>;
export type Evening = Schemas["Evening"];
export type LightByTones = Schemas["LightByTones"];
export type Form = Block["form"];
export type Bevel = Form["bevel"];
export type Gradient = Schemas["Gradient-Output"];
export type Stop = Schemas["Stop-Output"];
export type Pattern = Schemas["Pattern-Output"];
export type PictureLayer = Schemas["Picture"];
export type TileLayer = Schemas["Tile-Output"];
export type Mesh = Schemas["Mesh-Output"];
export type Layer = Gradient | Pattern | PictureLayer | TileLayer | Mesh;
export type ColourSource = string | { base: string; layers: Layer[] };
/** A number that follows the tones of layers. */
export type VariedNumber = { dark: number; light: number; layers: Layer[] };
export type Effect = PieceState["document"]["finish"][number];
export type NamedPaint = PieceState["document"]["paints"][number];
export type Material = Block["surface"]["face"];
export type Backdrop = PieceState["document"]["backdrop"];
export type Surround = PieceState["document"]["light"]["surround"];

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** What a fault says to a person: the server's own words, or else `otherwise`. */
export function messageOf(fault: unknown, otherwise = "the server does not answer"): string {
  return fault instanceof ProblemError ? fault.problem.detail : otherwise;
}

const http = createClient<paths>();

/** The server's answer. Throws its problem as a ProblemError. */
async function answered<T>(asked: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await asked;
  if (error !== undefined) throw new ProblemError(error as Problem);
  return data as T;
}

/** A file is sent as it is. */
const whole = (file: File) => ({ body: file as unknown as string, bodySerializer: () => file }) as const;

export const api = {
  opening: () => answered(http.GET("/api/opening")),
  workshop: () => answered(http.GET("/api/workshop")) as Promise<Workshop>,
  pieces: () => answered(http.GET("/api/pieces")),
  create: () => answered(http.POST("/api/pieces", { body: { document: null } })),
  duplicate: (ident: string) => answered(http.POST("/api/pieces/{ident}/duplicate", { params: { path: { ident } } })),
  remove: (ident: string) => answered(http.DELETE("/api/pieces/{ident}", { params: { path: { ident } } })),
  restore: (ident: string) => answered(http.POST("/api/pieces/{ident}/restore", { params: { path: { ident } } })),
  history: (ident: string) => answered(http.GET("/api/pieces/{ident}/history", { params: { path: { ident } } })),
  goTo: (ident: string, number: number) =>
    answered(http.POST("/api/pieces/{ident}/history/{number}", { params: { path: { ident, number: String(number) } } })),
  /** What an order leaves out the server fills in. */
  export: (ident: string, order: ExportOrder) =>
    answered(http.POST("/api/pieces/{ident}/exports", { params: { path: { ident } }, body: order as Schemas["ExportOrder"] })),
  exportState: (ident: string) => answered(http.GET("/api/exports/{ident}", { params: { path: { ident } } })),
  cancelExport: (ident: string) => answered(http.DELETE("/api/exports/{ident}", { params: { path: { ident } } })),
  coupon: (ident: string, material: Material) =>
    answered(
      http.POST("/api/pieces/{ident}/coupon", { params: { path: { ident } }, body: { material }, parseAs: "blob" }),
    ) as Promise<Blob>,
  surround: (surround: Partial<Surround>, paints: readonly NamedPaint[]) =>
    answered(
      http.POST("/api/surround", { body: { surround: surround as Surround, paints: [...paints] }, parseAs: "blob" }),
    ) as Promise<Blob>,
  tones: (ident: string) => answered(http.GET("/api/pieces/{ident}/tones", { params: { path: { ident } } })),
  lightByTones: (ident: string, tones: Record<string, number>) =>
    answered(http.POST("/api/pieces/{ident}/tones", { params: { path: { ident } }, body: { tones } })),
  panoramas: () => answered(http.GET("/api/panoramas")),
  keepPanorama: (name: string, file: File) =>
    answered(http.POST("/api/panoramas/{name}", { params: { path: { name } }, ...whole(file) })),
  openBundle: (file: File) => answered(http.POST("/api/bundles", whole(file))),
  pictures: () => answered(http.GET("/api/pictures")),
  keepPicture: (file: File) =>
    answered(http.POST("/api/pictures", { params: { query: { name: file.name.replace(/\.[^.]*$/, "") } }, ...whole(file) })),
  smallPicture: (id: string) => `/api/pictures/${id}/small`,
  keepTypeface: (file: File) => answered(http.POST("/api/typefaces", whole(file))),
  bringMark: (ident: string, file: File) =>
    answered(
      http.POST("/api/pieces/{ident}/marks", {
        params: { path: { ident }, query: { name: file.name.replace(/\.svg$/i, "") } },
        ...whole(file),
      }),
    ),
  evening: (ident: string, block: string) =>
    answered(http.GET("/api/pieces/{ident}/blocks/{block}/evening", { params: { path: { ident, block } } })),
  fit: (ident: string, block: string, typeface: string) =>
    answered(http.GET("/api/pieces/{ident}/blocks/{block}/fits/{typeface}", { params: { path: { ident, block, typeface } } })),
};
