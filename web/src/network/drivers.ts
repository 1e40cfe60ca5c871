/** What drives a dial, in words. */
import type { Catalogue, Reading, Wire } from "../api/client";
import type { Driven } from "../ui/NumberDial";
import { goTo } from "./going";
import { kindOnPaper, type Paper } from "./ports";

/** The driver at the beginning of a wire, and the range that arrives. */
export function driverOf(
  catalogue: Catalogue,
  paper: Paper,
  wire?: Wire,
  driven?: Reading["driven"],
): Driven | undefined {
  if (!wire) return undefined;
  const { slip: id, port } = wire.source;
  const slip = paper.slips.find((one) => one.id === id);
  const named = slip?.title || kindOnPaper(catalogue, paper, id)?.title || id;
  const range = driven?.[`${wire.target.part}.${wire.target.dial}`];
  return { by: port === "out" ? named : `${named}, ${port.replaceAll("_", " ")}`, onGo: () => goTo(id), ...range };
}
