import { QueryClient } from "@tanstack/react-query";
import type { StageOut } from "./client";

/** What the server has told, by key. */
export const queries = new QueryClient({ defaultOptions: { queries: { retry: 1 } } });

/** Take note of a stage as the server now has it. */
export function stageIsKept(stage: StageOut): void {
  queries.setQueryData<StageOut[]>(["stages"], (old = []) =>
    old.some((one) => one.id === stage.id) ? old.map((one) => (one.id === stage.id ? stage : one)) : [...old, stage],
  );
}
