import { useTold } from "./told";

/** What was just done or could not be done. */
export function Told() {
  const says = useTold((s) => s.says);
  return (
    <p
      role="status"
      className={`fixed bottom-12 left-1/2 z-50 max-w-xl -translate-x-1/2 bg-[#000d] px-3 py-1.5 text-white ${says ? "" : "hidden"}`}
    >
      {says}
    </p>
  );
}
