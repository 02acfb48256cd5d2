import { liveNow, useLive } from "../live/store";
import { Select } from "../ui/Select";

/** What an effect works on, by what the server calls it. */
export function TargetField({ label, path, value }: { label: string; path: string; value: string }) {
  const targets = useTargets();
  const gone = { target: value, name: "nothing: what it worked on is gone" };
  const known = targets.some(({ target }) => target === value) ? targets : [...targets, gone];
  return (
    <Select
      label={label}
      value={known.find(({ target }) => target === value)?.name ?? ""}
      options={known.map(({ name }) => name)}
      onChoose={(chosen) => {
        const target = known.find(({ name }) => name === chosen)?.target;
        if (target) liveNow().edit([{ op: "replace", path, value: target }]);
      }}
    />
  );
}

/** What effects can work on in the piece. */
export function useTargets() {
  return useLive((live) => live.piece?.drawings.targets) ?? [];
}
