import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useCatalogue } from "../api/catalogue";
import { api, type MaterialLine, wordsOf } from "../api/client";
import { readAnew, useMaterials } from "../api/queries";
import { useDocuments } from "../bench/documents";
import { copyOfMaterial } from "../bench/saving";
import { Tabs } from "../ui/Tabs";
import { tell } from "../ui/told";
import { MaterialCard } from "./MaterialCard";
import { Seek } from "./Seek";
import { alike, familiesOf, isSought } from "./sought";

/** The finished materials with their pictures: sought, opened, copied, tagged, put away and brought back. */
export function Materials({ onOpen }: { onOpen: (material: string) => void }) {
  const { families } = useCatalogue();
  const onBench = useDocuments((s) => s.id);
  const { data: all = [] } = useMaterials();
  const [sought, setSought] = useState("");
  const [family, setFamily] = useState("");
  const [chosenId, choose] = useState<string>();
  const [onlyTwins, showTwins] = useState(false);
  const [showsAway, showAway] = useState(false);
  const { data: away = [] } = useQuery({
    queryKey: ["put-away"],
    queryFn: async () => ((await api.GET("/api/materials/put-away")).data ?? []) as MaterialLine[],
  });
  const twins = alike(all);
  const shown = (onlyTwins && twins.length ? twins : all).filter(
    (one) => (!family || one.family === family) && isSought(one, sought),
  );
  const chosen = all.find((one) => one.id === chosenId);
  const refresh = () => {
    readAnew(["materials"]);
    readAnew(["put-away"]);
  };
  const putAway = async ({ id, name }: MaterialLine) => {
    const { error } = await api.DELETE("/api/materials/{material_id}", { params: { path: { material_id: id } } });
    tell(error ? wordsOf(error) : `${name} is put away; for 30 days it can be brought back.`);
    refresh();
    if (!error && id === onBench) {
      const next = all.find((one) => one.id !== id);
      if (next) onOpen(next.id);
    }
  };
  const bringBack = async ({ id }: MaterialLine) => {
    const path = { material_id: id };
    const { error } = await api.POST("/api/materials/{material_id}/bring-back", { params: { path } });
    if (error) tell(wordsOf(error));
    refresh();
  };
  const copy = async ({ id }: MaterialLine) => {
    const made = await copyOfMaterial(id);
    if (made) onOpen(made);
  };
  const tag = async ({ id }: MaterialLine, words: string) => {
    const tags = words.split(",").map((word) => word.trim());
    await api.PUT("/api/materials/{material_id}/tags", { params: { path: { material_id: id } }, body: { tags } });
    refresh();
  };
  return (
    <section className="flex h-full min-w-0 flex-col bg-base-100 text-base-content" aria-label="Materials">
      <Seek
        title="Materials"
        placeholder="a word, a colour: greenish, dark"
        sought={sought}
        onSeek={setSought}
        shown={shown.length}
        of={all.length}
      />
      <div className="flex border-b border-base-300 px-3 py-1">
        <Tabs label="Families" words={["", ...familiesOf(families, all)]} chosen={family} onChoose={setFamily} />
        {twins.length > 0 && (
          <button
            type="button"
            className="ml-auto min-h-6 shrink-0"
            aria-pressed={onlyTwins}
            title="Of the same matter as another here, but for their names"
            onClick={() => showTwins(!onlyTwins)}
          >
            <span className={onlyTwins ? "marked" : "hover:underline"}>{twins.length} alike</span>
          </button>
        )}
      </div>
      <ul className="grid min-h-0 grow auto-rows-max grid-cols-[repeat(auto-fill,minmax(112px,1fr))] gap-2.5 overflow-y-auto p-3">
        {shown.map((one) => (
          <li key={one.id}>
            <MaterialCard
              of={one}
              isChosen={one.id === chosenId}
              onBench={one.id === onBench}
              onTake={() => choose(one.id)}
              onOpen={() => onOpen(one.id)}
            />
          </li>
        ))}
        {shown.length === 0 && <li className="col-span-full py-3">Nothing here is called or coloured so.</li>}
      </ul>
      {chosen && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-base-content px-3 py-2">
          <b>{chosen.name}</b>
          <span className="text-[var(--mute)]">
            {chosen.family}: {chosen.made_of.slice(0, 4).join(", ")}
          </span>
          <label className="flex items-center gap-1.5">
            tags
            <input
              key={chosen.id}
              className="input input-xs w-40 bg-transparent"
              defaultValue={chosen.tags.join(", ")}
              aria-label="Tags"
              onBlur={(e) => tag(chosen, e.target.value)}
              onKeyDown={(e) => {
                e.stopPropagation();
                if (e.key === "Enter") e.currentTarget.blur();
              }}
            />
          </label>
          <span className="ml-auto flex items-center gap-3">
            <button type="button" className="hover:underline" onClick={() => putAway(chosen)}>
              put away
            </button>
            <button type="button" className="hover:underline" onClick={() => copy(chosen)}>
              copy
            </button>
            <button type="button" className="btn btn-xs bg-marker text-[#1d1d1d]" onClick={() => onOpen(chosen.id)}>
              Put on the bench
            </button>
          </span>
        </div>
      )}
      {away.length > 0 && (
        <div className="border-t border-base-300 px-3 py-1.5">
          <button
            type="button"
            className="hover:underline"
            aria-expanded={showsAway}
            onClick={() => showAway(!showsAway)}
          >
            {away.length} put away in the last 30 days
          </button>
          {showsAway && (
            <ul>
              {away.map((one) => (
                <li key={one.id} className="flex gap-3">
                  {one.name}
                  <button type="button" className="hover:underline" onClick={() => bringBack(one)}>
                    bring back
                  </button>
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </section>
  );
}
