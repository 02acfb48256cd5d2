import { liveNow, useLive } from "../live/store";
import { Field } from "../ui/Field";

/** A short text of the document, such as a name. */
export function TextField({ label, path, value }: { label: string; path: string; value: string }) {
  const { edit, forget } = liveNow();
  const fault = useLive((live) => live.faults[path]);
  return (
    <Field
      label={label}
      value={value}
      fault={fault}
      onEnter={(typed) => edit([{ op: "replace", path, value: typed }])}
      onKeep={() => forget(path)}
    />
  );
}
