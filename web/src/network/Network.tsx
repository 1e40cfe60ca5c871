import {
  applyNodeChanges,
  Background,
  BackgroundVariant,
  type Connection,
  type FinalConnectionState,
  type NodeChange,
  ReactFlow,
  type ReactFlowInstance,
  useReactFlow,
  useStore,
} from "@xyflow/react";
import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import type { Material, Wire } from "../api/client";
import {
  beginGesture,
  endGesture,
  moveSlips,
  removeSlips,
  removeWires,
  runWire,
  useDocuments,
} from "../bench/documents";
import { useChosen } from "./chosen";
import { NotchNode, type NotchNodeType } from "./NotchNode";
import { useNotches } from "./notches";
import { conversion, PORT_WORDS, sourceType, targetType, whyNot } from "./ports";
import { SlipNode, type SlipNodeType } from "./SlipNode";
import { WireEdge, type WireEdgeType } from "./WireEdge";

type AnyNode = SlipNodeType | NotchNodeType;

const nodeTypes = { slip: memo(SlipNode), notch: memo(NotchNode) };
const edgeTypes = { wire: WireEdge };
const notchId = (part: string, dial: string) => `notch:${part}:${dial}`;
const NOTCH_INSET = 12;
/** From this many slips on, only those in view are drawn. */
const MANY = 60;

function wireOf(connection: Pick<Connection, "source" | "target" | "sourceHandle" | "targetHandle">): Wire {
  const [, part, dial] = connection.target.startsWith("notch:")
    ? connection.target.split(":")
    : ["", connection.target, connection.targetHandle ?? ""];
  return { source: { slip: connection.source, port: connection.sourceHandle ?? "out" }, target: { part, dial } };
}

/** Notches of the section as nodes at the right edge of the paper. */
function useNotchNodes(material: Material): NotchNodeType[] {
  const catalogue = useCatalogue();
  const tops = useNotches((s) => s.tops);
  const transform = useStore((s) => s.transform);
  const width = useStore((s) => s.width);
  const deskTop = useStore((s) => s.domNode)?.getBoundingClientRect().top;
  return useMemo(() => {
    const [x, y, zoom] = transform;
    return Object.entries(tops).flatMap(([key, top]) => {
      const [part, dial] = key.split(".");
      const type = targetType(catalogue, material, part, dial);
      if (!type || deskTop === undefined) return [];
      const position = { x: (width - NOTCH_INSET - x) / zoom, y: (top - deskTop - y) / zoom - 8 };
      const data = { type, dial, label: `${dial.replaceAll("_", " ")}: takes a ${PORT_WORDS[type]}` };
      return [
        {
          id: notchId(part, dial),
          type: "notch" as const,
          position,
          data,
          draggable: false,
          selectable: false,
          focusable: false,
        },
      ];
    });
  }, [catalogue, material, tops, transform, width, deskTop]);
}

interface NetworkProps {
  onReady: (flow: ReactFlowInstance<AnyNode, WireEdgeType>) => void;
  /** A wire was dropped on empty ground: find a slip for its other end. */
  onPlaceAt: () => void;
}

export function Network({ onReady, onPlaceAt }: NetworkProps) {
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  const { slips: chosen, wires: chosenWires } = useChosen();
  const [reason, setReason] = useState<{ says: string; x: number; y: number }>();
  const pointer = useRef({ x: 0, y: 0 });
  const notches = useNotchNodes(material);
  const [nodes, setNodes] = useState<AnyNode[]>([]);

  useEffect(() => {
    setNodes((old) => {
      const known = new Map(old.map((node) => [node.id, node]));
      const slips = material.slips.map((slip): SlipNodeType => {
        const before = known.get(slip.id);
        const measured = before?.measured;
        const position = before?.dragging ? before.position : { x: slip.at[0], y: slip.at[1] };
        return {
          id: slip.id,
          type: "slip",
          position,
          data: { slip },
          selected: chosen.includes(slip.id),
          measured,
          dragging: before?.dragging,
        };
      });
      return [...slips, ...notches.map((notch) => ({ ...notch, measured: known.get(notch.id)?.measured }))];
    });
  }, [material.slips, notches, chosen]);

  const edges = useMemo(
    () =>
      material.wires.map((wire): WireEdgeType => {
        const { source, target } = wire;
        const from = sourceType(catalogue, material, source.slip, source.port) ?? "number";
        const to = targetType(catalogue, material, target.part, target.dial) ?? from;
        const isBand = material.section.bands.some((band) => band.id === target.part);
        const id = `${target.part}.${target.dial}`;
        return {
          id,
          type: "wire",
          source: source.slip,
          sourceHandle: source.port,
          target: isBand ? notchId(target.part, target.dial) : target.part,
          targetHandle: target.dial,
          selected: chosenWires.includes(id),
          data: { type: from, says: conversion(catalogue, from, to) ?? "" },
        };
      }),
    [catalogue, material, chosenWires],
  );

  const onNodesChange = useCallback((changes: NodeChange<AnyNode>[]) => {
    setNodes((old) => applyNodeChanges(changes, old));
    const picks = changes.flatMap((change) => (change.type === "select" ? [change] : []));
    if (picks.length) useChosen.getState().pickSlips(picks);
  }, []);

  const { screenToFlowPosition } = useReactFlow();
  const endConnection = (_: unknown, state: FinalConnectionState) => {
    if (!state.isValid && state.fromNode && state.fromHandle && !state.toNode) {
      const gives = state.fromHandle.type === "source";
      const [, part, dial] = state.fromNode.id.split(":");
      const at = screenToFlowPosition({ x: pointer.current.x - (gives ? 0 : 180), y: pointer.current.y - 40 });
      useChosen.getState().choosePort({
        side: gives ? "gives" : "takes",
        part: part ?? state.fromNode.id,
        name: dial ?? state.fromHandle.id ?? "out",
        at,
      });
      onPlaceAt();
      return;
    }
    if (!state.isValid && state.fromNode && state.toNode && state.fromHandle && state.toHandle) {
      const forward = state.fromHandle.type === "source";
      const [a, b] = forward ? [state.fromHandle, state.toHandle] : [state.toHandle, state.fromHandle];
      const wire = wireOf({
        source: a.nodeId,
        sourceHandle: a.id ?? null,
        target: b.nodeId,
        targetHandle: b.id ?? null,
      });
      setReason({
        says: whyNot(catalogue, material, wire) ?? "A wire runs from what a slip gives to a dial.",
        ...pointer.current,
      });
      setTimeout(() => setReason(undefined), 4000);
    }
  };

  return (
    <div
      className="desk relative h-full"
      onPointerMoveCapture={(e) => Object.assign(pointer.current, { x: e.clientX, y: e.clientY })}
    >
      <ReactFlow<AnyNode, WireEdgeType>
        nodes={nodes}
        edges={edges}
        nodeTypes={nodeTypes}
        edgeTypes={edgeTypes}
        onInit={onReady}
        onNodesChange={onNodesChange}
        onEdgesChange={(changes) =>
          useChosen.getState().pickWires(changes.flatMap((c) => (c.type === "select" ? [c] : [])))
        }
        onNodeDragStop={(_, __, dragged) =>
          moveSlips(Object.fromEntries(dragged.map((node) => [node.id, node.position])))
        }
        onDelete={({ nodes: goneNodes, edges: goneEdges }) => {
          beginGesture();
          removeWires(goneEdges.map((edge) => wireOf(edge as Connection)));
          removeSlips(goneNodes.map((node) => node.id));
          endGesture();
        }}
        onConnect={(connection) => runWire(wireOf(connection))}
        onConnectEnd={endConnection}
        isValidConnection={(connection) => !whyNot(catalogue, material, wireOf(connection as Connection))}
        onlyRenderVisibleElements={material.slips.length > MANY}
        deleteKeyCode={["Delete", "Backspace"]}
        defaultViewport={{ x: 24, y: 40, zoom: 1 }}
        minZoom={0.25}
        maxZoom={2}
        proOptions={{ hideAttribution: true }}
      >
        <Background id="fine" variant={BackgroundVariant.Lines} gap={10} color="var(--desk-line)" lineWidth={0.6} />
        <Background
          id="wide"
          variant={BackgroundVariant.Lines}
          gap={50}
          color="var(--desk-line-strong)"
          lineWidth={0.8}
        />
      </ReactFlow>
      {material.slips.length === 0 && (
        <p className="pointer-events-none absolute inset-x-0 top-1/3 mx-auto w-72 text-center text-[#3a3a3a] [[data-theme=night]_&]:text-[#d5d5d5]">
          Nothing drives this material yet. Press <kbd className="key">/</kbd> to place a slip, then run a wire from it
          to a notch of the section at the right.
        </p>
      )}
      {reason && (
        <p
          role="alert"
          className="fixed z-50 max-w-64 border border-base-content bg-base-100 px-2 py-1"
          style={{ left: reason.x + 12, top: reason.y + 8 }}
        >
          {reason.says}
        </p>
      )}
    </div>
  );
}
