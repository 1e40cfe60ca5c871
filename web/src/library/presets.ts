/** Bands with what drives them, and whole sections, kept to begin with. */
import { useQuery } from "@tanstack/react-query";
import { catalogueNow, kindOf } from "../api/catalogue";
import { api, type Band, type Catalogue, type KeptPreset, type Material, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { changeMaterial, inOneStep, useDocuments } from "../bench/documents";
import { putIn } from "../network/clipboard";
import { driversOf, type Pieces, piecesOf } from "../network/paper";
import { tell } from "../ui/told";

const KEY = ["presets"];

/** The presets that are kept in the library. */
export function usePresets(): KeptPreset[] {
  const { data = [] } = useQuery({
    queryKey: KEY,
    queryFn: async () => ((await api.GET("/api/presets")).data ?? []) as KeptPreset[],
  });
  return data;
}

async function keep(document: Material, is_whole: boolean): Promise<void> {
  const { error } = await api.POST("/api/presets", { body: { document, is_whole } });
  tell(
    error
      ? wordsOf(error)
      : `${document.name} is kept as a preset: it is offered in the section, in / and in the library.`,
  );
  readAnew(KEY);
}

/** Keep a band with the slips that drive it. */
export function keepBand(band: Band): Promise<void> {
  useDocuments.setState({ inside: [] });
  const { material } = useDocuments.getState();
  const title = kindOf(catalogueNow(), "band", band.kind)?.title ?? band.kind;
  const name = band.name || `${title} of ${material.name}`.slice(0, 120);
  const pieces: Pieces = piecesOf(driversOf(material, band.id), band.id);
  const bands = [{ ...band, side: "both" as const }];
  return keep({ ...material, ...pieces, name, section: { ...material.section, bands } }, false);
}

/** Keep the whole section with its network. */
export function keepSection(): Promise<void> {
  return keep(useDocuments.getState().material, true);
}

/** Put a preset on the bench: a section in place of the one there, a band where it may lie. One undo goes back. */
export function putPreset(catalogue: Catalogue, { document, is_whole, name }: KeptPreset): void {
  const given = document as Material;
  if (is_whole) {
    useDocuments.setState({ inside: [] });
    changeMaterial((material) => ({ ...given, name: material.name }));
    tell(`The section is that of ${name} now; undo goes back.`);
  } else inOneStep(() => putIn(catalogue, { ...given, bands: given.section.bands }));
}

export async function removePreset({ id, name }: KeptPreset): Promise<void> {
  const { error } = await api.DELETE("/api/presets/{preset_id}", { params: { path: { preset_id: id } } });
  tell(
    error ? wordsOf(error) : `${name} is out of the library; materials that were begun with it keep what they have.`,
  );
  readAnew(KEY);
}
