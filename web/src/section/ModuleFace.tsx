import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useRef } from "react";
import { dialsOf, useCatalogue } from "../api/catalogue";
import type { Module } from "../api/client";
import { useDocuments } from "../bench/documents";
import { useChosen } from "../network/chosen";
import { closeModule, expose, renameGiven, shifted } from "../network/grouping";
import { GIVES, moduleAt, moduleKind, slipKind, usesOf } from "../network/modules";
import { useNotchesIn } from "../network/notches";
import { changeModule, NEW, stopGiving } from "../network/paper";
import { kindOnPaper, PORT_WORDS, sourceType, usePaper } from "../network/ports";
import { NumberField } from "../ui/NumberField";
import { Notch } from "./Notch";

/** The face of the module that is open, in the section's place: its name, its dials, and what it gives. */
export function ModuleFace({ module }: { module: Module }) {
  const root = useRef<HTMLElement>(null);
  useNotchesIn(root);
  const material = useDocuments((s) => s.material);
  const uses = usesOf(material, module.id);
  return (
    <aside
      ref={root}
      className="flex h-full flex-col overflow-y-auto bg-base-100 pb-24 text-base-content"
      aria-label="Module"
    >
      <Trail />
      <div className="px-3 py-2">
        <Field label="Name" value={module.name} onChange={(name) => name && changeModule(() => ({ name }))} />
        <Field label="Help" value={module.help} onChange={(help) => changeModule(() => ({ help }))} />
        <p className="text-[11px] text-[var(--mute)]">
          {uses === 1 ? "used once" : `used ${uses} times; what is changed here changes all of them`}
        </p>
      </div>
      <Given module={module} />
      <Dials module={module} />
      <OfChosen module={module} />
    </aside>
  );
}

/** The way out. */
function Trail() {
  const inside = useDocuments((s) => s.inside);
  const material = useDocuments((s) => s.material);
  const names = inside.map((_, i) => moduleAt(material, inside.slice(0, i + 1))?.name ?? "");
  return (
    <nav aria-label="Open modules" className="border-b border-base-content px-3 py-1.5">
      <button type="button" className="action" onClick={() => useDocuments.setState({ inside: [] })}>
        {material.name}
      </button>
      {names.map((name, i) => (
        <span key={inside[i]}>
          {" "}
          ›{" "}
          {i + 1 < names.length ? (
            <button
              type="button"
              className="action"
              onClick={() => useDocuments.setState({ inside: inside.slice(0, i + 1) })}
            >
              {name}
            </button>
          ) : (
            <b className="marked">{name}</b>
          )}
        </span>
      ))}
      <button type="button" className="action float-right" onClick={closeModule}>
        close <kbd className="key">Esc</kbd>
      </button>
    </nav>
  );
}

function Field({ label, value, onChange }: { label: string; value: string; onChange: (text: string) => void }) {
  return (
    <label className="flex items-center gap-2 py-0.5">
      <span className="w-10 shrink-0">{label}</span>
      <input
        className="input input-xs w-full bg-transparent"
        maxLength={label === "Name" ? 120 : 400}
        value={value}
        onChange={(e) => onChange(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
    </label>
  );
}

/** What the module gives: run a wire to a notch, or choose there. */
function Given({ module }: { module: Module }) {
  const catalogue = useCatalogue();
  const paper = usePaper();
  return (
    <section className="border-t border-base-content px-1.5 py-2" aria-label="What it gives">
      <h3 className="px-1.5 font-semibold">Gives</h3>
      {module.gives.map(({ name, source }, i) => {
        const type = sourceType(catalogue, paper, source.slip, source.port);
        return (
          <div key={name} className="flex items-center gap-1.5 py-0.5">
            <Notch part={GIVES} dial={name} label={name} type={type} driven />
            <input
              className="input input-xs w-24 bg-transparent"
              aria-label={`Name of the port ${name}`}
              defaultValue={name.replaceAll("_", " ")}
              onBlur={(e) => renameGiven(name, e.target.value)}
              onKeyDown={(e) => {
                e.stopPropagation();
                if (e.key === "Enter") e.currentTarget.blur();
              }}
            />
            <span className="text-[var(--mute)]">{type && `a ${PORT_WORDS[type]}`}</span>
            <Order
              of={name}
              at={i}
              last={module.gives.length - 1}
              onMove={(by) => changeModule(({ gives }) => ({ gives: shifted(gives, i, by) }))}
              onRemove={() => stopGiving(name)}
            />
          </div>
        );
      })}
      <div className="flex items-center gap-1.5 py-0.5">
        <Notch part={GIVES} dial={NEW} label="one more" />
        <span className="text-[var(--mute)]">one more: run a wire here</span>
      </div>
    </section>
  );
}

/** The dials that the module has as its own, with their names, ranges and order. */
function Dials({ module }: { module: Module }) {
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  const kind = moduleKind(catalogue, material.modules, module);
  const set = (at: number, values: Partial<Module["dials"][number]>) =>
    changeModule(({ dials }) => ({ dials: dials.map((one, i) => (i === at ? { ...one, ...values } : one)) }));
  return (
    <section className="border-t border-base-content px-3 py-2" aria-label="Its dials">
      <h3 className="font-semibold">Dials</h3>
      {module.dials.length === 0 && (
        <p className="text-[var(--mute)]">None yet. Choose a slip, then tick what to have here.</p>
      )}
      {module.dials.map((exposed, i) => {
        const about = dialsOf(kind).find((one) => one.name === exposed.name);
        if (!about) return null;
        return (
          <div key={exposed.name} className="border-b border-base-200 py-1">
            <div className="flex items-center gap-1.5">
              <input
                className="input input-xs min-w-0 grow bg-transparent"
                aria-label={`Name of the dial ${about.label}`}
                value={exposed.label}
                placeholder={about.label}
                onChange={(e) => set(i, { label: e.target.value.slice(0, 120) })}
                onKeyDown={(e) => e.stopPropagation()}
              />
              <Order
                of={about.label}
                at={i}
                last={module.dials.length - 1}
                onMove={(by) => changeModule(({ dials }) => ({ dials: shifted(dials, i, by) }))}
                onRemove={() => expose(exposed.target.part, exposed.target.dial, false)}
              />
            </div>
            {about.type === "number" && (
              <p className="flex items-center gap-1.5 text-[var(--mute)]">
                from
                <NumberField label={`${about.label} from`} value={about.low} onChange={(low) => set(i, { low })} />
                to
                <NumberField label={`${about.label} to`} value={about.high} onChange={(high) => set(i, { high })} />
                {about.unit}
              </p>
            )}
          </div>
        );
      })}
    </section>
  );
}

interface OrderProps {
  of: string;
  at: number;
  last: number;
  onMove: (by: number) => void;
  onRemove: () => void;
}

function Order({ of, at, last, onMove, onRemove }: OrderProps) {
  return (
    <span className="ml-auto flex shrink-0">
      <button
        type="button"
        className="tool"
        aria-label={`Move ${of} up`}
        disabled={at === 0}
        onClick={() => onMove(-1)}
      >
        <ArrowUp size={13} />
      </button>
      <button
        type="button"
        className="tool"
        aria-label={`Move ${of} down`}
        disabled={at === last}
        onClick={() => onMove(1)}
      >
        <ArrowDown size={13} />
      </button>
      <button type="button" className="tool" aria-label={`Take ${of} off`} onClick={onRemove}>
        <X size={13} />
      </button>
    </span>
  );
}

/** The dials of the slip that is chosen, each to be had on the module or not. */
function OfChosen({ module }: { module: Module }) {
  const catalogue = useCatalogue();
  const paper = usePaper();
  const chosen = useChosen((s) => s.slips);
  const slip = module.slips.find((one) => one.id === chosen[0]);
  const kind = slip && slipKind(catalogue, paper.modules, slip);
  if (!slip || !kind) return null;
  const isOn = (dial: string) => module.dials.some(({ target }) => target.part === slip.id && target.dial === dial);
  const driven = (dial: string) => module.wires.some(({ target }) => target.part === slip.id && target.dial === dial);
  const title = slip.title || kindOnPaper(catalogue, paper, slip.id)?.title;
  return (
    <section className="border-t border-base-content px-3 py-2" aria-label={`Dials of ${title}`}>
      <h3 className="font-semibold">{title}: on the module</h3>
      {dialsOf(kind).map((dial) => (
        <label key={dial.name} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={isOn(dial.name)}
            disabled={driven(dial.name)}
            onChange={(e) => expose(slip.id, dial.name, e.target.checked)}
          />
          {dial.label}
          {driven(dial.name) && <span className="text-[var(--mute)]">driven within</span>}
        </label>
      ))}
    </section>
  );
}
