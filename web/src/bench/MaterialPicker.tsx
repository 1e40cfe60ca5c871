import type { MaterialLine } from "../api/client";
import { MaterialCard } from "../library/MaterialCard";
import { ShelfPicture } from "../library/ShelfPicture";
import { isSought } from "../library/sought";
import { PicturePicker } from "./PicturePicker";

interface MaterialPickerProps {
  materials: MaterialLine[];
  id: string;
  onOpen: (id: string) => void;
}

/** The materials by their pictures. */
export function MaterialPicker({ materials, id, onOpen }: MaterialPickerProps) {
  const own = materials.find((one) => one.id === id);
  return (
    <PicturePicker
      label="All by their pictures"
      placeholder="a word, a colour: greenish, dark"
      own={own?.picture && <ShelfPicture of={own} />}
      found={(sought, close) =>
        materials
          .filter((one) => isSought(one, sought))
          .map((one) => (
            <li key={one.id}>
              <MaterialCard
                of={one}
                isChosen={one.id === id}
                onTake={() => {
                  close();
                  onOpen(one.id);
                }}
              />
            </li>
          ))
      }
    />
  );
}
