import { say } from "./numbers";

interface NumberFieldProps {
  label: string;
  value?: number | null;
  onChange: (value: number) => void;
}

/** A number that is typed; what is no number is put back. */
export function NumberField({ label, value, onChange }: NumberFieldProps) {
  const own = say(value ?? 0);
  return (
    <input
      className="input input-xs figures w-16 bg-transparent"
      aria-label={label}
      inputMode="decimal"
      key={value}
      defaultValue={own}
      onBlur={({ target }) => {
        const typed = Number(target.value.replace(",", "."));
        if (target.value.trim() && Number.isFinite(typed)) onChange(typed);
        else target.value = own;
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
    />
  );
}
