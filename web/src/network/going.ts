/** Going to a slip: choosing it, bringing it into view, giving it the keyboard. */
import { useChosen } from "./chosen";

let centreOn: (id: string) => void = () => undefined;

/** Say how a slip is brought into view. */
export function setCentring(how: (id: string) => void): void {
  centreOn = how;
}

export function goTo(id: string): void {
  useChosen.getState().only([id]);
  centreOn(id);
  focusSlip(id);
}

const TRIES = 20;

/** Give a slip the keyboard, as soon as it is drawn and measured and no sheet lies over it. */
export function focusSlip(id: string, tries = TRIES): void {
  const node = document.querySelector<HTMLElement>(`.react-flow__node[data-id="${id}"]`);
  node?.focus();
  const isThere = node && document.activeElement === node && !document.querySelector("dialog[open]");
  if (!isThere && tries) requestAnimationFrame(() => focusSlip(id, tries - 1));
}
