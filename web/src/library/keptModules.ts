import { useQuery } from "@tanstack/react-query";
import { api, type KeptModule } from "../api/client";
import { readAnew } from "../api/queries";

const KEY = ["modules"];

/** The modules that are kept in the library. */
export function useKeptModules(): { kept: KeptModule[]; refresh: () => void } {
  const { data: kept = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/modules")).data ?? []) as KeptModule[],
  });
  return { kept, refresh: () => readAnew(KEY) };
}
