/** What went out to other programs, and what came in from them. */
import { useQuery } from "@tanstack/react-query";
import { api, type Formats, type HandOver, type TakenIn, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { useDocuments } from "../bench/documents";
import { tell } from "../ui/told";

const KEY = ["handovers"];
const LOOKS_AGAIN_MS = 2000;

/** Everything that was handed over, the newest first; looked at again while something is measured. */
export function useHandOvers(): HandOver[] {
  const { data = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/handovers")).data ?? []) as HandOver[],
    refetchInterval: ({ state }) => (state.data?.some((one) => one.state === "measuring") ? LOOKS_AGAIN_MS : false),
  });
  return data;
}

export function useFormats(): Formats {
  const { data = { formats: [], sides: [] } } = useQuery({
    queryKey: ["formats"],
    queryFn: async () => (await api.GET("/api/handovers/formats")).data,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data;
}

/** Where the material on the bench came from, when it was read of a file. */
export function useTakenIn(material: string): TakenIn | undefined {
  const { data } = useQuery({
    queryKey: ["taken in", material],
    queryFn: async () => {
      const params = { path: { material_id: material } };
      return (await api.GET("/api/handovers/in/{material_id}", { params })).data ?? null;
    },
  });
  return data ?? undefined;
}

/** Write the material on the bench in a format. */
export async function handOver(format: string, side: number): Promise<HandOver | undefined> {
  const { id, material, stage } = useDocuments.getState();
  const body = { material_id: id, format, side, material, stage };
  const { data, error } = await api.POST("/api/handovers", { body });
  if (!data) tell(wordsOf(error));
  await readAnew(KEY);
  return data as HandOver | undefined;
}

export async function removeHandOver(id: string): Promise<void> {
  await api.DELETE("/api/handovers/{handed_id}", { params: { path: { handed_id: id } } });
  await readAnew(KEY);
}

/** A new material of a file; its name. */
export async function takeIn(file: File): Promise<string | undefined> {
  const { data, error } = await api.POST("/api/handovers/in", {
    body: { file: "" },
    bodySerializer: () => {
      const form = new FormData();
      form.append("file", file);
      return form;
    },
  });
  if (!data) {
    tell(wordsOf(error));
    return undefined;
  }
  for (const queryKey of [["materials"], ["stages"], ["stage pictures"], ["standing"]]) await readAnew(queryKey);
  tell(`${data.material.name} was read of ${file.name}; its report lies under "hand over" in the Library.`);
  return data.material.id;
}
