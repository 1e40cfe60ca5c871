/** What was read with the devices on the desk. */
import { useQuery } from "@tanstack/react-query";
import { api, type DialValue, type Material, type Scan, wordsOf } from "../api/client";
import { queries } from "../api/queries";
import { changeMaterial, useDocuments } from "../bench/documents";
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

const looked = () => queries.invalidateQueries({ queryKey: KEY });

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

/** Have the interior of the material on the bench absorb as a scan says. */
export async function toInterior(scan: Scan): Promise<boolean> {
  const { data, error } = await api.POST("/api/devices/scans/{scan_id}/laid", {
    params: { path: { scan_id: scan.id } },
    body: { document: useDocuments.getState().material },
  });
  if (!data) {
    tell(wordsOf(error));
    return false;
  }
  changeMaterial(() => data.document as Material);
  tell(`The interior absorbs as ${scan.dials.sample}, over ${scan.length_cm} cm.`);
  return true;
}
