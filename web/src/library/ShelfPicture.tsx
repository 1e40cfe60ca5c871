import type { MaterialLine } from "../api/client";

const FIRST_SCREEN = 48;

/** Have the pictures of the first screen of a shelf at hand before it is looked at. */
export function fetchPicturesAhead(all: MaterialLine[]): void {
  for (const { picture } of all.slice(0, FIRST_SCREEN)) if (picture) new Image().src = picture;
}

/** The picture of something on a shelf; a word in its place as long as it is not made. */
export function ShelfPicture({ of }: { of: Pick<MaterialLine, "picture" | "is_current"> }) {
  if (!of.picture)
    return (
      <span className="grid aspect-square w-full place-items-center bg-[var(--mat)] text-white">
        {of.is_current ? "no picture" : "being made"}
      </span>
    );
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
