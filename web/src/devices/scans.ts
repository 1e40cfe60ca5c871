/** What was read with the devices on the desk. */
import { useQuery } from "@tanstack/react-query";
import { api, type Catalogue, type Compared, type DialValue, type Scan, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { useDocuments } from "../bench/documents";
import { takeOver } from "../section/takeOver";
import { tell } from "../ui/told";

const KEY = ["scans"];
const LOOKS_AGAIN_MS = 300;

/** Every scan, the newest first; looked at again and again while one is under way. */
export function useScans(): Scan[] {
  const { data = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/devices/scans")).data ?? []) as Scan[],
    refetchInterval: ({ state }) => (state.data?.some((one) => one.seconds_left > 0) ? LOOKS_AGAIN_MS : false),
  });
  return data;
}

const looked = () => readAnew(KEY);

export async function beginScan(device: string, dials: Record<string, DialValue>): Promise<string | undefined> {
  const { data, error } = await api.POST("/api/devices/scans", { body: { device, dials: dials as Scan["dials"] } });
  if (!data) tell(wordsOf(error));
  await looked();
  return data?.id;
}

export async function stopScan(scan_id: string): Promise<void> {
  await api.POST("/api/devices/scans/{scan_id}/stop", { params: { path: { scan_id } } });
  await looked();
}

export async function removeScan(scan_id: string): Promise<void> {
  await api.DELETE("/api/devices/scans/{scan_id}", { params: { path: { scan_id } } });
  await looked();
}

/** Scans over the same places, and what they tell of Bouguer's law. */
export function useCompared(scans: Scan[], for_1_cm: boolean): Compared | undefined {
  const of = scans.map(({ id }) => id);
  const { data } = useQuery({
    queryKey: ["compared", of, for_1_cm, scans.map(({ places }) => places.length)],
    queryFn: async () => (await api.GET("/api/devices/scans/compared", { params: { query: { of, for_1_cm } } })).data,
    enabled: of.length > 0,
    placeholderData: (before) => before,
  });
  return data;
}

/** Have the material on the bench absorb as a scan says. */
export async function toMaterial(catalogue: Catalogue, scan: Scan): Promise<boolean> {
  const params = { path: { scan_id: scan.id } };
  const { data, error } = await api.GET("/api/devices/scans/{scan_id}/dials", { params });
  if (!data) tell(wordsOf(error));
  if (!data || !takeOver(catalogue, data)) return false;
  tell(`The interior absorbs as ${scan.dials.sample}, over ${scan.length_cm} cm.`);
  return true;
}

/** Have the material on the bench hold a scan as one more dye, beside those that it has. */
export async function toDye(catalogue: Catalogue, scan: Scan): Promise<boolean> {
  const params = { path: { scan_id: scan.id } };
  const body = useDocuments.getState().material;
  const { data, error } = await api.POST("/api/devices/scans/{scan_id}/dye", { params, body });
  if (!data) tell(wordsOf(error));
  if (!data || !takeOver(catalogue, data)) return false;
  tell(
    `${scan.dials.sample} is a dye of the interior, as strong as it was read; its amount makes it weaker or stronger.`,
  );
  return true;
}
