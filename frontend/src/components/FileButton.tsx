import { type ReactNode, useRef } from "react";
import { messageOf } from "../api/client";
import { useLive } from "../live/store";
import { TextAction } from "../ui/TextAction";
import { useWaiting } from "../ui/useWaiting";

interface Wanted {
  /** What the file holds, such as `Font`. */
  name: string;
  accept: string;
  /** Takes the file that was chosen; what it throws is shown on the screen. */
  take: (file: File) => Promise<void>;
}

/** The hidden input that brings a file of one's own, and the way to open it. */
export function useFile({ name, accept, take }: Wanted): { input: ReactNode; open: () => void; waiting: boolean } {
  const element = useRef<HTMLInputElement>(null);
  const [waiting, run] = useWaiting();

  async function onChange(file: File | undefined) {
    if (!file) return;
    try {
      await run(() => take(file));
    } catch (fault) {
      useLive.setState({
        refusal: messageOf(fault, `the ${name.toLowerCase()} could not be sent`),
      });
    }
  }

  const input = (
    <input
      ref={element}
      type="file"
      accept={accept}
      hidden
      aria-label={`${name} file`}
      onChange={(event) => {
        const file = event.target.files?.[0];
        void onChange(file);
        event.target.value = "";
      }}
    />
  );
  return { input, open: () => element.current?.click(), waiting };
}

/** A button that brings a file of one's own. */
export function FileButton({ children, ...wanted }: Wanted & { children: ReactNode }) {
  const { input, open, waiting } = useFile(wanted);
  return (
    <>
      {input}
      <TextAction waiting={waiting} onClick={open}>
        {children}
      </TextAction>
    </>
  );
}
