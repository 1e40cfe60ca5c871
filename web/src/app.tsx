import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useCatalogue } from "./api/catalogue";
import { api, type MaterialOut, type Settings, type StageOut } from "./api/client";
import { readAnew, useMaterials } from "./api/queries";
import { Bench } from "./bench/Bench";
import type { Place } from "./bench/Places";
import { fetchPicturesAhead } from "./library/ShelfPicture";
import { useMe } from "./people/people";

const PATH = /^\/(bench|stage|trials|library|pictures)\/(?:([0-9a-f-]{36})\/)?/;
const LAST = "last material";
const idInPath = () => PATH.exec(window.location.pathname)?.[2];
const placeInPath = () => (PATH.exec(window.location.pathname)?.[1] ?? "bench") as Place;

export function App() {
  const queries = useQueryClient();
  const [asked, setAsked] = useState(idInPath);
  const [place, setPlace] = useState(placeInPath);
  const me = useMe();
  const materials = useMaterials();
  const stages = useQuery({
    queryKey: ["stages"],
    queryFn: async () => ((await api.GET("/api/stages")).data ?? []) as StageOut[],
  });
  const standing = useQuery({
    queryKey: ["standing"],
    queryFn: async () => (await api.GET("/api/stages/standing")).data ?? [],
  });
  const there = (holds: (one: { id: string; name: string }) => boolean) => materials.data?.find(holds)?.id;
  const last = localStorage.getItem(LAST);
  const id = asked ?? there((one) => one.id === last) ?? there((one) => one.name === "Net float") ?? there(() => true);
  const material = useQuery({
    queryKey: ["material", id],
    enabled: !!id,
    refetchOnWindowFocus: false,
    queryFn: async () => {
      const { data } = await api.GET("/api/materials/{material_id}", { params: { path: { material_id: id ?? "" } } });
      if (!data) throw new Error("not there");
      return data as MaterialOut;
    },
  });
  const settings = me?.settings as Settings | undefined;
  const catalogue = useCatalogue();

  useEffect(() => {
    if (settings) document.documentElement.dataset.theme = settings.theme;
  }, [settings]);
  useEffect(() => fetchPicturesAhead(materials.data ?? []), [materials.data]);
  useEffect(() => {
    const back = () => {
      setAsked(idInPath());
      setPlace(placeInPath());
    };
    window.addEventListener("popstate", back);
    return () => window.removeEventListener("popstate", back);
  }, []);

  const openMaterial = (next: string) => {
    window.history.pushState(null, "", `/${place}/${next}/`);
    setAsked(next);
    readAnew(["materials"]);
  };
  const go = (next: Place, of = id) => {
    if (of) window.history.pushState(null, "", `/${next}/${of}/`);
    setPlace(next);
  };
  const changeSettings = (next: Settings) => {
    queries.setQueryData(["me"], { ...me, settings: next });
    api.PUT("/api/settings", { body: next });
  };

  // What was opened stays open, also when it is taken off the shelf meanwhile.
  useEffect(() => {
    if (!asked && id) setAsked(id);
  }, [asked, id]);
  useEffect(() => {
    if (material.data) localStorage.setItem(LAST, material.data.id);
  }, [material.data]);

  if (material.isError && !material.data) return <Message says="This material is not there, or it is not yours." />;
  if (materials.data?.length === 0 && !material.data)
    return <Message says="No materials yet. Run ./start to fill in the demo." />;
  if (
    !catalogue.kinds.length ||
    !settings ||
    !material.data ||
    !stages.data?.length ||
    !materials.data ||
    !standing.data
  )
    return <Message says="Opening the bench ..." />;
  return (
    <Bench
      key={material.data.id}
      material={material.data}
      materials={materials.data}
      stages={stages.data}
      standsOn={standing.data.find((one) => one.material_id === material.data.id)?.stage_id}
      settings={settings}
      place={place}
      onGo={go}
      onOpen={openMaterial}
      onSettings={changeSettings}
    />
  );
}

function Message({ says }: { says: string }) {
  return (
    <main className="grid h-full place-items-center text-white">
      <p>
        {says}{" "}
        <a className="underline" href="/">
          Bench
        </a>
      </p>
    </main>
  );
}
