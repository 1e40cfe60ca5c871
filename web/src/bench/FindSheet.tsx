import { useChosen } from "../network/chosen";
import { Finder } from "./Finder";
import { type Command, useFindings } from "./findings";

/** The finder over everything that can be found, or over what can be wired to the chosen port. */
export function FindSheet({ commands }: { commands: Command[] }) {
  const findings = useFindings(commands);
  const port = useChosen((s) => s.port);
  const title = port
    ? `Wire ${port.name.replaceAll("_", " ")} of ${port.part.replaceAll("_", " ")}`
    : "Place a slip, or do something";
  return <Finder title={title} findings={findings} onClose={useChosen.getState().found} />;
}
