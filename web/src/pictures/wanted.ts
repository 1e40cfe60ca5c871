/** How the next final picture is to be made, and what that takes. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { api, type Final, type FinalPicture, type Trial, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { useDocuments } from "../bench/documents";
import { useLive } from "../bench/live";
import { tell } from "../ui/told";
import { useMotion } from "./motion";

export const KEY = ["finals"];
export const LOOKS_AGAIN_MS = 1500;

export type Wanted = Omit<Final, "height" | "format" | "version">;

/** Kept in the browser: what was chosen last is what one goes on with. */
export const useWanted = create<Wanted>()(
  persist(
    (): Wanted => ({
      width: 1280,
      noise: 0.02,
      minutes: null,
      samples: null,
      most_bounces: 128,
      most_matt: null,
      most_within: null,
      smoothed: true,
      half: false,
      on_floor: false,
      by_light: false,
      seed: 1,
    }),
    { name: "nineglass-final" },
  ),
);

export const heightOf = (width: number, aspect: number) => Math.max(Math.round(width / aspect), 16);

/** Seconds by what the picture on the bench takes, which uses both threads as a final does; undefined while it says too little. */
export function estimatedSeconds(wanted: Wanted, aspect: number): number | undefined {
  const { frame } = useLive.getState();
  if (!frame || frame.coarse || frame.part || frame.samples < 4 || !frame.seconds) return undefined;
  const { moves, motion } = useMotion.getState();
  const pixels = wanted.width * heightOf(wanted.width, aspect) * (moves ? (motion.frames ?? 1) : 1);
  const perSample = (frame.seconds / frame.samples) * (pixels / (frame.width * frame.height));
  const found: number[] = [];
  if (wanted.minutes && !moves) found.push(60 * wanted.minutes);
  if (wanted.samples) found.push(perSample * wanted.samples);
  if (wanted.noise && frame.noise)
    found.push(perSample * frame.samples * Math.max((frame.noise / wanted.noise) ** 2, 0.1));
  return found.length ? Math.min(...found) : undefined;
}

/** "40 s", "12 min", "3.5 h". */
export function inWords(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${Number((seconds / 3600).toPrecision(2))} h`;
}

/** Put a final picture of what is on the bench into the queue, or a series of them. */
export async function makeFinal(aspect: number): Promise<FinalPicture | undefined> {
  const wanted = useWanted.getState();
  const { moves, motion } = useMotion.getState();
  const several = moves
    ? { minutes: null, by_light: false, on_floor: false, samples: wanted.samples ?? (wanted.noise ? null : 64) }
    : {};
  const final: Final = {
    format: "nineglass.final",
    version: 1,
    ...wanted,
    ...several,
    height: heightOf(wanted.width, aspect),
  };
  const { id, material, stage } = useDocuments.getState();
  const body = { material_id: id, material, stage, final, motion: moves ? motion : null };
  return queued(await api.POST("/api/pictures", { body }));
}

/** Have a trial made behind, of what is on the bench. */
export const queueTrial = async (trial: Trial) =>
  queued(await api.POST("/api/pictures/trials", { body: { material_id: useDocuments.getState().id, trial } }));

/** Say what was put into the queue, or why it was not. */
function queued({ data, error }: { data?: unknown; error?: unknown }): FinalPicture | undefined {
  const picture = data as FinalPicture | undefined;
  if (!picture) tell(wordsOf(error));
  else {
    const { width, height } = picture.final;
    tell(`${picture.name} is in the queue, ${width} by ${height}; Pictures shows how far it is.`);
  }
  readAnew(KEY);
  return picture;
}

/** Every final picture; looked at again and again while one is under way. */
export function useFinals(): FinalPicture[] {
  const { data = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/pictures")).data ?? []) as FinalPicture[],
    refetchInterval: ({ state }) => (state.data?.some((one) => one.state === "under way") ? LOOKS_AGAIN_MS : false),
  });
  return data;
}
