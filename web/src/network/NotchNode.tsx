import { Handle, type Node, type NodeProps, Position, useStore } from "@xyflow/react";

export type NotchNodeType = Node<{ sign: string; dial: string; label: string }, "notch">;

/** Where a wire ends at the section; keeps its size whatever the zoom. */
export function NotchNode({ data }: NodeProps<NotchNodeType>) {
  const zoom = useStore((s) => s.transform[2]);
  return (
    <div className="relative h-4 w-4" style={{ transform: `scale(${1 / zoom})`, transformOrigin: "left center" }}>
      <Handle
        type="target"
        id={data.dial}
        position={Position.Left}
        className="port in"
        style={{ left: -4, top: 8 }}
        title={data.label}
      >
        {data.sign}
      </Handle>
    </div>
  );
}
