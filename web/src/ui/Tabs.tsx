interface TabsProps<Word extends string> {
  label: string;
  words: readonly Word[];
  chosen: Word;
  onChoose: (word: Word) => void;
  className?: string;
}

/** Words in a row, of which one is chosen; no word stands for all. */
export function Tabs<Word extends string>({ label, words, chosen, onChoose, className = "" }: TabsProps<Word>) {
  return (
    <div role="tablist" aria-label={label} className={`flex flex-wrap gap-x-3 ${className}`}>
      {words.map((one) => (
        <button
          type="button"
          key={one}
          role="tab"
          aria-selected={one === chosen}
          className="min-h-6"
          onClick={() => onChoose(one)}
        >
          <span className={one === chosen ? "marked" : "hover:underline"}>{one || "all"}</span>
        </button>
      ))}
    </div>
  );
}
