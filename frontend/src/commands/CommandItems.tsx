import { MenuItem, MenuRule } from "../ui/Menu";
import { nameOf, printed } from "./command";
import { commandOf } from "./registry";
import { useCommandContext } from "./useCommandContext";

/** Commands as items of a menu, by their ids; `-` is a rule between two groups. What cannot be done is dimmed. */
export function CommandItems({ ids }: { ids: readonly string[] }) {
  const context = useCommandContext();
  if (!context) return null;
  return ids.map((id, at) => {
    if (id === "-") return <MenuRule key={at} />;
    const command = commandOf(id);
    return (
      <MenuItem
        key={id}
        keys={command.keys && printed(command.keys)}
        disabled={command.when && !command.when(context)}
        onSelect={() => command.run(context)}
      >
        {nameOf(command, context)}
      </MenuItem>
    );
  });
}
