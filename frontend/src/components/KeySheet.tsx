import { Dialog } from "radix-ui";
import { KEYS } from "../commands";
import { Sheet } from "./Sheet";

/** All keys on one sheet. */
export function KeySheet() {
  return (
    <Sheet name="keys" title="Keys">
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
    </Sheet>
  );
}
