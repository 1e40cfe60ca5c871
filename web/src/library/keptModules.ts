import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type KeptModule } from "../api/client";

const KEY = ["modules"];

/** The modules that are kept in the library. */
export function useKeptModules(): { kept: KeptModule[]; refresh: () => void } {
  const queries = useQueryClient();
  const { data: kept = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/modules")).data ?? []) as KeptModule[],
  });
  return { kept, refresh: () => queries.invalidateQueries({ queryKey: KEY }) };
}
