import { Dialog } from "radix-ui";
import { KEYS } from "../commands";
import { useDesk } from "../live/desk";

/** All keys on one sheet. */
export function KeySheet() {
  const sheet = useDesk((desk) => desk.sheet);
  const openSheet = useDesk.getState().openSheet;
  return (
    <Dialog.Root open={sheet === "keys"} onOpenChange={(open) => openSheet(open ? "keys" : null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="sheet key-sheet" aria-describedby={undefined}>
          <Dialog.Title>Keys</Dialog.Title>
          <Dialog.Close className="text-action">Close</Dialog.Close>
          {KEYS.map(({ place, keys }) => (
            <section key={place}>
              <h3>{place}</h3>
              <dl>
                {keys.map(([key, what]) => (
                  <div key={key}>
                    <dt>
                      <kbd>{key}</kbd>
                    </dt>
                    <dd>{what}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
