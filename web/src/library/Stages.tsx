import { useStagePictures } from "../api/queries";
import { chooseStage, useDocuments } from "../bench/documents";
import { PictureCard } from "./PictureCard";
import { Shelf } from "./Shelf";

/** The stages with what stood on each last; the material on the bench is put on one by a click. */
export function Stages({ onStage }: { onStage: () => void }) {
  const { data: all = [] } = useStagePictures();
  const here = useDocuments((s) => s.stageId);
  return (
    <Shelf
      title="Stages"
      placeholder="a word of its name"
      all={all}
      words={(one) => one.name}
      className="grid auto-rows-max grid-cols-[repeat(auto-fill,minmax(112px,1fr))] gap-2.5 p-3"
    >
      {(shown) =>
        shown.map((one) => (
          <li key={one.id}>
            <PictureCard
              of={one}
              isChosen={one.id === here}
              onTake={() => {
                chooseStage(one.id);
                onStage();
              }}
            />
          </li>
        ))
      }
    </Shelf>
  );
}
