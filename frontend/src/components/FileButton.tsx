import { type ReactNode, useRef } from "react";
import { ProblemError } from "../api/client";
import { useLive } from "../live/store";

interface Props {
  /** What the file holds, such as `Font`. */
  name: string;
  accept: string;
  /** Takes the file that was chosen; what it throws is told on the screen. */
  take: (file: File) => Promise<void>;
  children: ReactNode;
}

/** A button that brings a file of one's own. */
export function FileButton({ name, accept, take, children }: Props) {
  const input = useRef<HTMLInputElement>(null);

  async function onChange(file: File | undefined) {
    if (!file) return;
    try {
      await take(file);
    } catch (fault) {
      useLive.setState({
        refusal: fault instanceof ProblemError ? fault.problem.detail : `the ${name.toLowerCase()} could not be sent`,
      });
    }
  }

  return (
    <>
      <input
        ref={input}
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
      <button type="button" className="text-action" onClick={() => input.current?.click()}>
        {children}
      </button>
    </>
  );
}
