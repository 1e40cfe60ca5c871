import { Spline } from "lucide-react";
import type { PortType } from "../api/client";
import { useChosen } from "../network/chosen";
import { PORT_WORDS } from "../network/ports";

interface NotchProps {
  part: string;
  dial: string;
  label: string;
  /** What it takes; anything when not given. */
  type?: PortType;
  driven?: boolean;
}

/** Where a wire ends in the section; pressed, it lists what can drive the dial. */
export function Notch({ part, dial, label, type, driven }: NotchProps) {
  const what = type ? `a ${PORT_WORDS[type]}` : "anything";
  return (
    <button
      type="button"
      data-notch={`${part}.${dial}`}
      className={`grid h-6 w-6 place-items-center hover:bg-base-200 ${driven ? "text-base-content" : "text-[var(--mute)]"}`}
      aria-haspopup="dialog"
      aria-label={`Drive ${label} by ${what}`}
      title={`Drive by ${what}: run a wire here, or choose`}
      onClick={() => useChosen.getState().find({ side: "takes", part, name: dial })}
    >
      <Spline size={13} strokeWidth={driven ? 2.4 : 1.4} />
    </button>
  );
}
