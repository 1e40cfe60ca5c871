import { Group, Panel, Separator } from "react-resizable-panels";
import { useLive } from "../bench/live";
import { Plan } from "./Plan";
import { StageCards } from "./StageCards";
import { WhoSees } from "./WhoSees";

/** The stage beside the live picture: a lighting plan, a view for heights, the surround unrolled, and the cards. */
export function StagePlace({ materials }: { materials: { id: string; name: string }[] }) {
  const strips = useLive((s) => s.reading?.plan?.strips);
  return (
    <Group orientation="horizontal" className="h-full">
      <Panel defaultSize="62%" minSize="280px" className="flex flex-col bg-[var(--desk)] text-base-content">
        <div className="min-h-0 grow-[5] basis-0">
          <Plan view="above" />
        </div>
        <div className="min-h-0 grow-[3] basis-0 border-t border-base-300">
          <Plan view="front" />
        </div>
        <div className="flex shrink-0 gap-3 border-t border-base-300 bg-base-100 px-3 py-2">
          <Strip label="what lights and reflects" png={strips?.light} />
          <Strip label="what the camera sees behind" png={strips?.camera} />
        </div>
      </Panel>
      <Separator className="w-1 bg-[var(--mat-line)]" />
      <Panel minSize="260px" className="overflow-y-auto bg-base-100 text-base-content">
        <StageCards materials={materials} />
        <WhoSees />
      </Panel>
    </Group>
  );
}

function Strip({ label, png }: { label: string; png?: string }) {
  return (
    <figure className="min-w-0 grow">
      {png && (
        <img
          className="block h-9 w-full border border-base-300"
          src={`data:image/png;base64,${png}`}
          alt={`${label}, all directions, the front in the middle`}
        />
      )}
      <figcaption className="text-[11px] text-[var(--mute)]">{label}</figcaption>
    </figure>
  );
}
