import { BaseEdge, type Edge, EdgeLabelRenderer, type EdgeProps, getBezierPath } from "@xyflow/react";
import type { PortType } from "../api/client";

export type WireEdgeType = Edge<{ type: PortType; says: string }, "wire">;

const INK = "var(--color-base-content)";

/** Number: one thin stroke. Colour: a double stroke. Vector: dashes. A conversion stands on the wire as a tag. */
export function WireEdge({ data, selected, ...ends }: EdgeProps<WireEdgeType>) {
  const [path, x, y] = getBezierPath(ends);
  const type = data?.type ?? "number";
  return (
    <>
      {selected && <path d={path} stroke="var(--color-marker)" strokeWidth={9} fill="none" />}
      {type === "color" && <path d={path} stroke={INK} strokeWidth={4} fill="none" />}
      <BaseEdge
        path={path}
        interactionWidth={16}
        style={{
          stroke: type === "color" ? "var(--desk)" : INK,
          strokeWidth: type === "color" ? 1.8 : 1.2,
          strokeDasharray: type === "vector" ? "5 3" : undefined,
        }}
      />
      {data?.says && (
        <EdgeLabelRenderer>
          <span
            className="absolute border border-base-300 bg-secondary px-1 text-[10px] text-secondary-content"
            style={{ transform: `translate(-50%, -50%) translate(${x}px, ${y}px)` }}
          >
            {data.says}
          </span>
        </EdgeLabelRenderer>
      )}
    </>
  );
}
