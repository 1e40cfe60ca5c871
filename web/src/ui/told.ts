/** What was just done or could not be done, in words, for a while. */
import { create } from "zustand";

export const useTold = create<{ says: string }>()(() => ({ says: "" }));

const FOR_MS = 5000;
let timer: ReturnType<typeof setTimeout>;

export function tell(says: string): void {
  clearTimeout(timer);
  useTold.setState({ says });
  timer = setTimeout(() => useTold.setState({ says: "" }), FOR_MS);
}
