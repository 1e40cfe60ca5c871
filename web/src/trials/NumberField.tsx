import { useState } from "react";
import { say } from "../ui/numbers";

interface NumberFieldProps {
  label: string;
  value: number;
  onChange: (value: number) => void;
}

/** A number that is typed; what is no number is put back. */
export function NumberField({ label, value, onChange }: NumberFieldProps) {
  const [typing, setTyping] = useState<string>();
  const take = () => {
    const given = Number(typing?.replace(",", "."));
    if (typing?.trim() && Number.isFinite(given)) onChange(given);
    setTyping(undefined);
  };
  return (
    <input
      className="figures input input-xs w-14 bg-transparent px-1"
      aria-label={label}
      inputMode="decimal"
      value={typing ?? say(value)}
      onChange={(e) => setTyping(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => e.key === "Enter" && take()}
    />
  );
}
