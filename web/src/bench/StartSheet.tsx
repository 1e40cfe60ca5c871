import { useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { useMaterials } from "../api/queries";
import { MaterialCard } from "../library/MaterialCard";
import { familiesOf } from "../library/sought";
import { Sheet } from "../ui/Sheet";
import { Tabs } from "../ui/Tabs";

interface StartSheetProps {
  onClose: () => void;
  onPlain: () => void;
  onStart: (from: string) => void;
}

const EACH = 3;

/** How an empty bench begins: a family, then one of a few finished materials of it, as a copy. */
export function StartSheet({ onClose, onPlain, onStart }: StartSheetProps) {
  const { data: all = [] } = useMaterials();
  const families = familiesOf(useCatalogue().families, all);
  const [family, setFamily] = useState(families[0]);
  const offered = all.filter((one) => one.family === family).slice(0, EACH);
  const take = (act: () => void) => {
    act();
    onClose();
  };
  return (
    <Sheet title="Begin with" onClose={onClose}>
      <Tabs label="Families" words={families} chosen={family} onChoose={setFamily} className="mb-2" />
      <div className="grid grid-cols-3 gap-2">
        {offered.map((one) => (
          <MaterialCard key={one.id} of={one} onTake={() => take(() => onStart(one.id))} />
        ))}
      </div>
      <p className="mt-2">
        <button type="button" className="hover:underline" onClick={() => take(onPlain)}>
          or nothing: clear glass
        </button>
      </p>
    </Sheet>
  );
}
