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
import type { Catalogue, Wire } from "../api/client";
import { inOneStep, useDocuments } from "../bench/documents";
import { useChosen } from "./chosen";
import { MountNode, type MountNodeType } from "./MountNode";
import { GIVES } from "./modules";
import { NotchNode, type NotchNodeType } from "./NotchNode";
import { useNotches } from "./notches";
import { liesOn, movePieces, NEW, type Point, removePieces, removeWires, runWire } from "./paper";
import { conversion, type Paper, PORT_WORDS, SIGNS, sourceType, targetType, usePaper, whyNot } from "./ports";
import { SlipNode, type SlipNodeType } from "./SlipNode";
import { WireEdge, type WireEdgeType } from "./WireEdge";

export type Flow = ReactFlowInstance<AnyNode, WireEdgeType>;
type AnyNode = SlipNodeType | NotchNodeType | MountNodeType;

const nodeTypes = { slip: memo(SlipNode), notch: memo(NotchNode), mount: memo(MountNode) };
const edgeTypes = { wire: WireEdge };
const notchId = (part: string, dial: string) => `notch:${part}:${dial}`;
const NOTCH_INSET = 12;
/** From this many slips on, only those in view are drawn. */
const MANY = 60;
const FIT_AFTER_MS = 60;

function wireOf(connection: Pick<Connection, "source" | "target" | "sourceHandle" | "targetHandle">): Wire {
  const [, part, dial] = connection.target.startsWith("notch:")
    ? connection.target.split(":")
    : ["", connection.target, connection.targetHandle ?? ""];
  return { source: { slip: connection.source, port: connection.sourceHandle ?? "out" }, target: { part, dial } };
}

/** Notches of the section, or of the open module, as nodes at the right edge of the paper. */
function useNotchNodes(paper: Paper): NotchNodeType[] {
  const catalogue = useCatalogue();
  const tops = useNotches((s) => s.tops);
  const transform = useStore((s) => s.transform);
  const width = useStore((s) => s.width);
  const deskTop = useStore((s) => s.domNode)?.getBoundingClientRect().top;
  return useMemo(() => {
    const [x, y, zoom] = transform;
    return Object.entries(tops).flatMap(([key, top]) => {
      const [part, dial] = key.split(".");
      const type = targetType(catalogue, paper, part, dial);
      const isNew = part === GIVES && dial === NEW;
      if (!(type || isNew) || deskTop === undefined) return [];
      const position = { x: (width - NOTCH_INSET - x) / zoom, y: (top - deskTop - y) / zoom - 8 };
      const label = type
        ? `${dial.replaceAll("_", " ")}: takes a ${PORT_WORDS[type]}`
        : "one more that the module gives";
      const data = { sign: type ? SIGNS[type] : "+", dial, label };
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
  }, [catalogue, paper, tops, transform, width, deskTop]);
}

interface NetworkProps {
  onReady: (flow: Flow) => void;
}

/** A mount lets the pointer through to the paper, but for its head. */
const UNDER_SLIPS = { zIndex: -1, dragHandle: ".mount-head", style: { pointerEvents: "none" as const } };

/** The slips and mounts of the open paper as nodes; what is being dragged stays where the pointer has it. */
function piecesAsNodes(paper: Paper, chosen: string[], old: AnyNode[]): AnyNode[] {
  const known = new Map(old.map((node) => [node.id, node]));
  const place = (piece: { id: string; at: [number, number] }) => {
    const before = known.get(piece.id);
    const position = before?.dragging ? before.position : { x: piece.at[0], y: piece.at[1] };
    const { measured, dragging } = before ?? {};
    return { id: piece.id, position, measured, dragging, selected: chosen.includes(piece.id) };
  };
  const mounts = paper.mounts.map((mount): MountNodeType => {
    const [width, height] = mount.size;
    const size = { width, height, measured: { width, height } };
    return { ...place(mount), ...size, type: "mount", ...UNDER_SLIPS, data: { mount } };
  });
  const slips = paper.slips.map((slip): SlipNodeType => ({ ...place(slip), type: "slip", data: { slip } }));
  return [...mounts, ...slips];
}

function edgesOf(catalogue: Catalogue, paper: Paper, chosen: string[]): WireEdgeType[] {
  const given = paper.open?.gives.map(({ name, source }): Wire => ({ source, target: { part: GIVES, dial: name } }));
  return [...paper.wires, ...(given ?? [])].map((wire) => {
    const { source, target } = wire;
    const from = sourceType(catalogue, paper, source.slip, source.port) ?? "number";
    const to = targetType(catalogue, paper, target.part, target.dial) ?? from;
    const isSlip = paper.slips.some((slip) => slip.id === target.part);
    const id = `${target.part}.${target.dial}`;
    return {
      id,
      type: "wire",
      source: source.slip,
      sourceHandle: source.port,
      target: isSlip ? target.part : notchId(target.part, target.dial),
      targetHandle: target.dial,
      selected: chosen.includes(id),
      data: { type: from, says: conversion(catalogue, from, to) ?? "" },
    };
  });
}

/** Where a dragged mount takes what lies on it; slips that are dragged themselves are left to that. */
function carried(paper: Paper, dragged: AnyNode[]): Record<string, Point> {
  const moving = new Set(dragged.map((node) => node.id));
  const places: Record<string, Point> = {};
  for (const node of dragged) {
    const mount = paper.mounts.find((one) => one.id === node.id);
    if (!mount) continue;
    const [x, y] = [node.position.x - mount.at[0], node.position.y - mount.at[1]];
    for (const slip of paper.slips)
      if (!moving.has(slip.id) && liesOn(slip, mount)) places[slip.id] = { x: slip.at[0] + x, y: slip.at[1] + y };
  }
  return places;
}

export function Network({ onReady }: NetworkProps) {
  const catalogue = useCatalogue();
  const paper = usePaper();
  const inside = useDocuments((s) => s.inside);
  const { slips: chosen, wires: chosenWires } = useChosen();
  const [reason, setReason] = useState<{ says: string; x: number; y: number }>();
  const pointer = useRef({ x: 0, y: 0 });
  const notches = useNotchNodes(paper);
  const [nodes, setNodes] = useState<AnyNode[]>([]);

  useEffect(() => {
    setNodes((old) => {
      const known = new Map(old.map((node) => [node.id, node]));
      const ends = notches.map((notch) => ({ ...notch, measured: known.get(notch.id)?.measured }));
      return [...piecesAsNodes(paper, chosen, old), ...ends];
    });
  }, [paper, notches, chosen]);

  const edges = useMemo(() => edgesOf(catalogue, paper, chosenWires), [catalogue, paper, chosenWires]);

  const onNodesChange = useCallback((changes: NodeChange<AnyNode>[]) => {
    setNodes((old) => applyNodeChanges(changes, old));
    const picks = changes.flatMap((change) => (change.type === "select" ? [change] : []));
    if (picks.length) useChosen.getState().pickSlips(picks);
  }, []);

  const { screenToFlowPosition, fitView } = useReactFlow();
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another paper is opened, all of it is shown
  useEffect(() => {
    if (inside.length) setTimeout(() => fitView({ maxZoom: 1, padding: 0.15 }), FIT_AFTER_MS);
  }, [inside]);
  const endConnection = (_: unknown, state: FinalConnectionState) => {
    if (!state.isValid && state.fromNode && state.fromHandle && !state.toNode) {
      const gives = state.fromHandle.type === "source";
      const [, part, dial] = state.fromNode.id.split(":");
      const at = screenToFlowPosition({ x: pointer.current.x - (gives ? 0 : 180), y: pointer.current.y - 40 });
      useChosen.getState().find({
        side: gives ? "gives" : "takes",
        part: part ?? state.fromNode.id,
        name: dial ?? state.fromHandle.id ?? "out",
        at,
      });
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
        says: whyNot(catalogue, paper, wire) ?? "A wire runs from what a slip gives to a dial.",
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
        onNodeDrag={(_, __, dragged) => {
          const places = carried(paper, dragged);
          if (Object.keys(places).length)
            setNodes((old) =>
              old.map((node) => (places[node.id] ? ({ ...node, position: places[node.id] } as AnyNode) : node)),
            );
        }}
        onNodeDragStop={(_, __, dragged) =>
          movePieces({
            ...carried(paper, dragged),
            ...Object.fromEntries(dragged.map((node) => [node.id, node.position])),
          })
        }
        onDelete={({ nodes: goneNodes, edges: goneEdges }) =>
          inOneStep(() => {
            removeWires(goneEdges.map((edge) => wireOf(edge as Connection)));
            removePieces(goneNodes.map((node) => node.id));
          })
        }
        onConnect={(connection) => runWire(wireOf(connection))}
        onConnectEnd={endConnection}
        isValidConnection={(connection) => !whyNot(catalogue, paper, wireOf(connection as Connection))}
        onlyRenderVisibleElements={paper.slips.length > MANY}
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
      {paper.slips.length === 0 && !paper.open && (
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
