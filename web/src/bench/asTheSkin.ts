import { skinsOf } from "../api/catalogue";
import { api, type Catalogue, type Material, wordsOf } from "../api/client";
import { changeMaterial, useDocuments } from "./documents";

/** Give the material on the bench, worn by strands, the colour of what they grow on; what to say of it. */
export async function colorAsTheSkin(catalogue: Catalogue): Promise<string> {
  const { material, stage } = useDocuments.getState();
  const skins = skinsOf(catalogue, stage.objects);
  const strands = stage.objects.find(
    (one) => one.on && !skins.includes(one) && !Object.values(one.wears).some((wear) => wear.material),
  );
  if (!strands) return "No strands on this stage wear the material on the bench.";
  const skin = skins.find((one) => one.id === (strands.skin ?? skins[0]?.id));
  const worn = Object.values(skin?.wears ?? {}).find((wear) => wear.material)?.material;
  if (!worn) return "What the strands grow on wears the material on the bench, so there is no colour to take.";
  const { data, error } = await api.POST("/api/materials/as-the-skin", { body: { strands: material, skin: worn } });
  if (data) changeMaterial(() => data.document as Material);
  return data ? `Coloured as ${worn.name}.` : wordsOf(error);
}
