import { QueryClient, type QueryKey, useQuery } from "@tanstack/react-query";
import { api, type KeptFile, type MaterialLine, type StageLine, type StageOut, type Standing } from "./client";

/** What the server has told, by key. */
export const queries = new QueryClient({ defaultOptions: { queries: { retry: 1 } } });

/**
 * Ask anew for what is kept under keys that begin so, since it was changed. An answer that is still under way may be older than
 * the change, and is given up; the library would take a first one as the new one.
 */
export async function readAnew(queryKey: QueryKey): Promise<void> {
  await queries.cancelQueries({ queryKey });
  await queries.invalidateQueries({ queryKey });
}

const LOOKS_AGAIN_MS = 3000;

/** The materials on the shelf; looked at again while pictures of some are still being made. */
export function useMaterials() {
  return useQuery({
    queryKey: ["materials"],
    queryFn: async () => ((await api.GET("/api/materials")).data ?? []) as MaterialLine[],
    refetchInterval: ({ state }) => (state.data?.some((one) => !one.is_current) ? LOOKS_AGAIN_MS : false),
  });
}

/** The stages by their pictures; looked at again while some are still being made. */
export function useStagePictures() {
  return useQuery({
    queryKey: ["stage pictures"],
    queryFn: async () => ((await api.GET("/api/stages/pictures")).data ?? []) as StageLine[],
    refetchInterval: ({ state }) => (state.data?.some((one) => !one.is_current) ? LOOKS_AGAIN_MS : false),
  });
}

/** The files that the person put in. */
export function useFiles(): KeptFile[] {
  const { data = [] } = useQuery({
    queryKey: ["files"],
    queryFn: async () => ((await api.GET("/api/files")).data ?? []) as KeptFile[],
  });
  return data;
}

/** Take note of a stage as the server now has it. */
export function stageIsKept(stage: StageOut): void {
  readAnew(["stage pictures"]);
  queries.setQueryData<StageOut[]>(["stages"], (old = []) =>
    old.some((one) => one.id === stage.id) ? old.map((one) => (one.id === stage.id ? stage : one)) : [...old, stage],
  );
}

/** Remember on which stage a material stands, so that it opens there. */
export function standOn(stage_id: string, material_id: string): void {
  queries.setQueryData<Standing[]>(["standing"], (old = []) => [
    ...old.filter((one) => one.material_id !== material_id),
    { material_id, stage_id },
  ]);
  api.PUT("/api/stages/{stage_id}/standing/{material_id}", { params: { path: { stage_id, material_id } } });
}
