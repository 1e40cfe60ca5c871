import { useLive } from "../bench/live";
import { say } from "../ui/numbers";

const share = (part: number) => `${say(Number((100 * part).toPrecision(2)))} %`;

/** A slip held up over the picture, with its range in numbers and what is out of range. */
export function Held() {
  const held = useLive((s) => s.held);
  if (!held) return null;
  return (
    <>
      <img className="absolute inset-0 h-full w-full" src={held.url} alt={`what ${held.slip} gives, on the form`} />
      <p
        className="figures absolute top-2 right-2 left-2 bg-[#000c] px-2 py-1 text-white"
        role="status"
        data-testid="held"
      >
        held up: {say(Number(held.low.toPrecision(3)))} to {say(Number(held.high.toPrecision(3)))}
        {held.below > 0 && `; ${share(held.below)} below ${say(held.least)}, shown blue`}
        {held.above > 0 && `; ${share(held.above)} above ${say(held.most)}, shown red`}
        <span className="float-right">
          put down <kbd className="key">H</kbd>
        </span>
      </p>
    </>
  );
}
