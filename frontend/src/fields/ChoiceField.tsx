import type { ComponentProps } from "react";
import { liveNow } from "../live/store";
import { Choice } from "../ui/Choice";

type Props<T extends string> = Omit<ComponentProps<typeof Choice<T>>, "onChoose"> & {
  /** JSON Pointer of the value in the document. */
  path: string;
};

/** A choice of a few that the document keeps. */
export function ChoiceField<T extends string>({ path, ...more }: Props<T>) {
  const { edit } = liveNow();
  return <Choice<T> {...more} onChoose={(value) => edit([{ op: "replace", path, value }])} />;
}
