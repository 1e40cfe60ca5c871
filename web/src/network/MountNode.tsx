import { type Node, type NodeProps, NodeResizer } from "@xyflow/react";
import type { Mount } from "../api/client";
import { onF2, Rename } from "../ui/Rename";
import { changeMount } from "./paper";

export type MountNodeType = Node<{ mount: Mount }, "mount">;

/** A titled sheet under slips; dragged by its title, it takes them along. */
export function MountNode({ data: { mount }, selected }: NodeProps<MountNodeType>) {
  return (
    <article className="mount" aria-label={`Mount ${mount.title}`}>
      <NodeResizer
        isVisible={!!selected}
        minWidth={120}
        minHeight={80}
        onResizeEnd={(_, { x, y, width, height }) => changeMount(mount.id, { at: [x, y], size: [width, height] })}
      />
      <header className="mount-head">
        <Rename
          name={mount.title}
          label="Title of this mount"
          className="w-48"
          onRename={(title) => changeMount(mount.id, { title })}
        >
          {(begin) => (
            <button
              type="button"
              className="truncate font-semibold"
              title="Drag to move it with its slips. Double click to rename."
              onDoubleClick={begin}
              onKeyDown={onF2(begin)}
            >
              <span className={selected ? "marked" : ""}>{mount.title || "Untitled"}</span>
            </button>
          )}
        </Rename>
      </header>
    </article>
  );
}
