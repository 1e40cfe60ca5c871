import type { MaterialLine } from "../api/client";

/** The picture of a material by itself; hatched as long as it is not made. */
export function MaterialPicture({ of }: { of: Pick<MaterialLine, "picture" | "is_current"> }) {
  if (!of.picture)
    return <span className="grid aspect-square w-full place-items-center bg-[var(--mat)] text-white">being made</span>;
  return (
    <img
      src={of.picture}
      alt=""
      loading="lazy"
      width={192}
      height={192}
      className={`block aspect-square h-auto w-full ${of.is_current ? "" : "opacity-70"}`}
    />
  );
}
