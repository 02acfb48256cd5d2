import type { Line } from "../../live/desk";
import type { Plane } from "../plane";
import { InHand } from "./StageTool";
import { useDrawing } from "./useDrawing";
import { useGlint } from "./useGlint";
import { useHighlight } from "./useHighlight";

interface Props {
  tool: Line | "highlight" | "glint";
  plane: Plane;
  width: number;
  height: number;
  unit: number;
}

/** The tool that has the whole stage. */
export function ToolInHand({ tool, ...more }: Props) {
  if (tool === "highlight") return <Highlight {...more} />;
  return tool === "glint" ? <Glint {...more} /> : <Drawing line={tool} {...more} />;
}

function Highlight({ width, height, unit }: Omit<Props, "tool">) {
  return <InHand tool={useHighlight(width, height, unit)} width={width} height={height} />;
}

function Glint({ width, height, unit }: Omit<Props, "tool">) {
  return <InHand tool={useGlint(width, height, unit)} width={width} height={height} />;
}

function Drawing({ line, plane, width, height, unit }: Omit<Props, "tool"> & { line: Line }) {
  return <InHand tool={useDrawing(line, plane, unit)} width={width} height={height} />;
}
