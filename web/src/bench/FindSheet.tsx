import { dialsOf, useCatalogue } from "../api/catalogue";
import { useChosen } from "../network/chosen";
import { kindOnPaper, usePaper } from "../network/ports";
import { Finder } from "./Finder";
import { type Command, useFindings } from "./findings";

/** The finder over everything that can be found, or over what can be wired to the chosen port. */
export function FindSheet({ commands }: { commands: Command[] }) {
  const findings = useFindings(commands);
  const title = useTitle();
  return <Finder title={title} findings={findings} onClose={useChosen.getState().found} />;
}

function useTitle(): string {
  const catalogue = useCatalogue();
  const paper = usePaper();
  const port = useChosen((s) => s.port);
  if (!port) return "Place a slip, or do something";
  const kind = kindOnPaper(catalogue, paper, port.part);
  const slip = paper.slips.find((one) => one.id === port.part);
  const band = paper.bands.find((one) => one.id === port.part);
  const part = slip?.title || band?.name || kind?.title || "the module";
  if (port.side === "gives") return `Where ${part} goes`;
  const dial = kind && dialsOf(kind).find((one) => one.name === port.name);
  return dial ? `What drives ${dial.label} of ${part}` : `What ${part} gives`;
}
