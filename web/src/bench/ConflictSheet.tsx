import { Sheet } from "../ui/Sheet";
import { settle, useSaving } from "./saving";

/** Somebody saved in between: both states are there, and one chooses. */
export function ConflictSheet({ onCopy }: { onCopy: (id: string) => void }) {
  const conflict = useSaving((s) => s.conflict);
  if (!conflict) return null;
  const copy = async () => {
    const made = await settle.saveAsCopy();
    if (made) onCopy(made.id);
  };
  const choices: [string, string, () => void][] = [
    ["Save mine as a copy", "Both stay, as two materials.", copy],
    ["Take theirs", "Mine stays one undo away.", settle.takeTheirs],
    ["Save mine over theirs", "Theirs stays among the revisions.", settle.keepMine],
  ];
  return (
    <Sheet title="Saved elsewhere in the meantime" onClose={() => useSaving.setState({ conflict: undefined })}>
      <p className="mb-3">
        {conflict.says} {conflict.both.length > 0 && `Both changed: ${conflict.both.map(lastStep).join(", ")}. `}
        Nothing is lost. What shall be done?
      </p>
      {choices.map(([title, says, act]) => (
        <button
          type="button"
          key={title}
          className="mb-1.5 flex w-full justify-between border border-base-300 px-3 py-2 text-left hover:border-base-content"
          onClick={act}
        >
          <b>{title}</b>
          <span className="text-[var(--mute)]">{says}</span>
        </button>
      ))}
    </Sheet>
  );
}

const lastStep = (path: string) => path.split(".").at(-1);
