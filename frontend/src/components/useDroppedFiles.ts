import { useEffect } from "react";
import { api, messageOf } from "../api/client";
import { useLive } from "../live/store";
import { toast } from "../ui/Toasts";
import { bringMark, layPicture } from "./acts";

const PICTURES = /\.(png|jpe?g|webp|tiff?|exr)$/i;

/** Takes files that are dropped on the window: a saved piece is opened, a drawing becomes a mark, a picture is laid. */
export function useDroppedFiles(onOpen: (id: string) => void) {
  useEffect(() => {
    async function take(file: File) {
      if (/\.halvex$/i.test(file.name)) onOpen((await api.openBundle(file)).id);
      else if (/\.svg$/i.test(file.name)) await bringMark(file);
      else if (PICTURES.test(file.name)) await layPicture(file);
      else throw new Error(`${file.name} cannot be used here; drop a .halvex piece, an SVG drawing or a picture`);
    }
    async function drop(event: DragEvent) {
      if (!event.dataTransfer?.files.length) return;
      event.preventDefault();
      for (const file of event.dataTransfer.files) {
        try {
          toast(`Taking in ${file.name} …`);
          await take(file);
        } catch (fault) {
          useLive.setState({ refusal: messageOf(fault, fault instanceof Error ? fault.message : undefined) });
        }
      }
    }
    // Files are taken only where a drag over the window says so.
    const over = (event: DragEvent) => event.dataTransfer?.types.includes("Files") && event.preventDefault();
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  }, [onOpen]);
}
