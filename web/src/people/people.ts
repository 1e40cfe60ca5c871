/** What is shared with whom, and what was said of proofs. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { api, type Comment, type Share, wordsOf } from "../api/client";
import { readAnew } from "../api/queries";
import { tell } from "../ui/told";

/** Something that can be shared. */
export interface Thing {
  kind: Share["kind"];
  of: string;
  name: string;
  isMine: boolean;
}

export const MAY: Share["may"][] = ["look", "comment", "change"];

const told = () => readAnew(["shares"]);

/** Who is signed in. */
export function useMe() {
  return useQuery({ queryKey: ["me"], queryFn: async () => (await api.GET("/api/me")).data }).data;
}

/** The names of all others of this installation. */
export function useOthers(): string[] {
  const { data = [] } = useQuery({
    queryKey: ["people"],
    queryFn: async () => (await api.GET("/api/people")).data ?? [],
  });
  return data;
}

/** Who has something. */
export function useShares({ kind, of }: Thing): Share[] {
  const { data = [] } = useQuery({
    queryKey: ["shares", kind, of],
    queryFn: async () =>
      (await api.GET("/api/people/shares/{kind}/{of}", { params: { path: { kind, of } } })).data ?? [],
  });
  return data;
}

/** Everything that the person shares. */
export function useGiven(): Share[] {
  const { data = [] } = useQuery({
    queryKey: ["shares"],
    queryFn: async () => (await api.GET("/api/people/shares")).data ?? [],
  });
  return data;
}

export async function shareWith({ kind, of }: Thing, person: string, may: Share["may"]): Promise<void> {
  const params = { path: { kind, of } };
  const { error } = await api.PUT("/api/people/shares/{kind}/{of}", { params, body: { person, may } });
  if (error) tell(wordsOf(error));
  await told();
}

export async function takeBack(share_id: string): Promise<void> {
  const { error } = await api.DELETE("/api/people/shares/{share_id}", { params: { path: { share_id } } });
  if (error) tell(wordsOf(error));
  await told();
}

/** The place in a proof that is pointed at, 0 to 1 from the left and from the top; none: the whole picture. */
export const usePointed = create<{ at?: [number, number]; chosen?: string }>()(() => ({}));

/** All that was said of the proofs of a material; the live socket tells when there is more. */
export function useComments(material_id: string): Comment[] {
  const { data = [] } = useQuery({
    queryKey: ["comments", material_id],
    queryFn: async () => {
      const params = { path: { material_id } };
      return ((await api.GET("/api/materials/{material_id}/comments", { params })).data ?? []) as Comment[];
    },
  });
  return data;
}

/** Whether it was kept. */
export async function comment(proof_id: string, says: string, at?: [number, number]): Promise<boolean> {
  const params = { path: { proof_id } };
  const { data, error } = await api.POST("/api/proofs/{proof_id}/comments", { params, body: { says, at } });
  if (!data) tell(wordsOf(error));
  await readAnew(["comments"]);
  return Boolean(data);
}

export async function takeCommentBack(comment_id: string): Promise<void> {
  const { error } = await api.DELETE("/api/comments/{comment_id}", { params: { path: { comment_id } } });
  if (error) tell(wordsOf(error));
  await readAnew(["comments"]);
}
