/** What is done to pictures after the light: documents of their own, which pictures wear. */
import { useQuery } from "@tanstack/react-query";
import { api, type Finish, type FinishConflict, type KeptFinish, wordsOf } from "../api/client";
import { queries, readAnew } from "../api/queries";
import { tell } from "../ui/told";
import { KEY } from "./wanted";

const FINISHES = ["finishes"];
const KEPT_AFTER_MS = 700;

export function useFinishes(): KeptFinish[] {
  const { data = [] } = useQuery({
    queryKey: FINISHES,
    queryFn: async () => ((await api.GET("/api/pictures/finishes")).data ?? []) as KeptFinish[],
  });
  return data;
}

/** The address of a picture that is done, or of a frame of a series, with a finish: as it is seen, or as linear light. */
export const finishedAddress = (
  ending: "jpg" | "exr",
  picture: string,
  finish: Finish | undefined,
  frame: number,
  version: string,
) =>
  `/pictures/${picture}/finished.${ending}?frame=${frame}&of=${version}&finish=${encodeURIComponent(JSON.stringify(finish ?? {}))}`;

export async function beginFinish(name: string): Promise<KeptFinish | undefined> {
  const { data, error } = await api.POST("/api/pictures/finishes", {
    body: { format: "nineglass.finish", version: 1, name, steps: [], view: null },
  });
  if (!data) tell(wordsOf(error));
  await readAnew(FINISHES);
  return data as KeptFinish | undefined;
}

const cached = () => queries.getQueryData<KeptFinish[]>(FINISHES) ?? [];

const put = (id: string, about: Partial<KeptFinish>) =>
  queries.setQueryData<KeptFinish[]>(FINISHES, (old = []) =>
    old.map((one) => (one.id === id ? { ...one, ...about } : one)),
  );

/** Changes that are kept soon, by the finish that they are of. */
const waiting = new Map<string, ReturnType<typeof setTimeout>>();

/** What was sent last of a finish: the next follows when it is answered, and so is never taken for somebody else's. */
const sending = new Map<string, Promise<void>>();

/** Turn a finish: seen at once, kept a moment later, when all pictures that wear it are made anew. */
export function changeFinish(id: string, document: Finish): void {
  put(id, { document });
  clearTimeout(waiting.get(id));
  const keepNext = () =>
    sending.set(
      id,
      (sending.get(id) ?? Promise.resolve()).catch(() => undefined).then(() => keepFinish(id)),
    );
  waiting.set(id, setTimeout(keepNext, KEPT_AFTER_MS));
}

async function keepFinish(id: string): Promise<void> {
  const now = cached().find((one) => one.id === id);
  if (!now) return;
  const { data, error, response } = await api.PUT("/api/pictures/finishes/{finish_id}", {
    params: { path: { finish_id: id } },
    body: { based_on: now.revision, document: now.document },
  });
  if (data) put(id, { revision: data.revision });
  else {
    tell(response.status === 409 ? (error as FinishConflict).says : wordsOf(error));
    await readAnew(FINISHES);
  }
  readAnew(KEY);
}

export async function removeFinish(id: string): Promise<void> {
  clearTimeout(waiting.get(id));
  const { error } = await api.DELETE("/api/pictures/finishes/{finish_id}", { params: { path: { finish_id: id } } });
  if (error) tell(wordsOf(error));
  await Promise.all([readAnew(FINISHES), readAnew(KEY)]);
}
