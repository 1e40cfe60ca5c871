import { useStagePictures } from "../api/queries";
import { PictureCard } from "../library/PictureCard";
import { ShelfPicture } from "../library/ShelfPicture";
import { PicturePicker } from "./PicturePicker";

/** The stages by their pictures. */
export function StagePicker({ id, onStage }: { id: string; onStage: (id: string) => void }) {
  const { data: stages = [] } = useStagePictures();
  const own = stages.find((one) => one.id === id);
  return (
    <PicturePicker
      label="Stages by their pictures"
      placeholder="a word of its name"
      own={own?.picture && <ShelfPicture of={own} />}
      found={(sought, close) =>
        stages
          .filter((one) => one.name.toLowerCase().includes(sought.toLowerCase()))
          .map((one) => (
            <li key={one.id}>
              <PictureCard
                of={one}
                isChosen={one.id === id}
                onTake={() => {
                  close();
                  onStage(one.id);
                }}
              />
            </li>
          ))
      }
    />
  );
}
