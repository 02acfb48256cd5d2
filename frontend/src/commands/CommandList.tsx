import { Command as Cmdk } from "cmdk";
import { deskNow, useDesk } from "../live/desk";
import { Dialog } from "../ui/Dialog";
import { Kbd } from "../ui/Kbd";
import { nameOf, PLACES, printed } from "./command";
import { COMMANDS } from "./registry";
import { useCommandContext } from "./useCommandContext";

/** Everything that can be done as things stand, found by a few letters of it. */
export function CommandList() {
  const open = useDesk((desk) => desk.sheet === "commands");
  return (
    <Dialog open={open} onClose={() => deskNow().openSheet(null)} title="All commands">
      <Found />
    </Dialog>
  );
}

function Found() {
  const context = useCommandContext();
  if (!context) return null;
  const possible = COMMANDS.filter((command) => !command.when || command.when(context));
  return (
    <Cmdk label="Find a command" loop>
      <Cmdk.Input
        autoFocus
        placeholder="Type a few letters: centre, duplicate, light …"
        className="my-2.5 h-9 w-full rounded-sheet border border-rule-firm bg-sheet px-2.5 text-value"
      />
      <Cmdk.List label="Commands" data-part="commands" className="max-h-[48vh] overflow-y-auto [scrollbar-width:thin]">
        <Cmdk.Empty className="px-2.5 py-2 text-small text-ink-3">
          No command matches. Try a word such as bevel, lamp or canvas.
        </Cmdk.Empty>
        {PLACES.map((place) => (
          <Cmdk.Group
            key={place}
            heading={place}
            className="**:[[cmdk-group-heading]]:px-2.5 **:[[cmdk-group-heading]]:pt-2 **:[[cmdk-group-heading]]:text-caption **:[[cmdk-group-heading]]:font-semibold **:[[cmdk-group-heading]]:tracking-[0.08em] **:[[cmdk-group-heading]]:text-ink-2 **:[[cmdk-group-heading]]:uppercase"
          >
            {possible
              .filter((command) => command.place === place)
              .map((command) => (
                <Cmdk.Item
                  key={command.id}
                  value={nameOf(command, context)}
                  onSelect={() => {
                    context.desk.openSheet(null);
                    // After the list has closed and given the focus back.
                    setTimeout(() => command.run(context));
                  }}
                  className="flex cursor-pointer justify-between gap-4 px-2.5 py-1.5 data-[selected=true]:bg-verdigris-wash data-[selected=true]:font-[650] data-[selected=true]:shadow-[inset_3px_0_var(--color-verdigris)]"
                >
                  <span>{nameOf(command, context)}</span>
                  {command.keys && <Kbd>{printed(command.keys)}</Kbd>}
                </Cmdk.Item>
              ))}
          </Cmdk.Group>
        ))}
      </Cmdk.List>
    </Cmdk>
  );
}
