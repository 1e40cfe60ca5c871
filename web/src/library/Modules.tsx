import { useCatalogue } from "../api/catalogue";
import { api, type KeptModule, wordsOf } from "../api/client";
import { moduleKind } from "../network/modules";
import { PORT_WORDS } from "../network/ports";
import { tell } from "../ui/told";
import { useKeptModules } from "./keptModules";
import { Shelf } from "./Shelf";

/** The modules that are kept: what each has to set and what it gives; placed on the bench with one click. */
export function Modules({ onPlace }: { onPlace: (kept: KeptModule) => void }) {
  const { kept, refresh } = useKeptModules();
  const remove = async ({ id, name }: KeptModule) => {
    const { error } = await api.DELETE("/api/modules/{module_id}", { params: { path: { module_id: id } } });
    tell(error ? wordsOf(error) : `${name} is out of the library; materials that use it keep it.`);
    refresh();
  };
  return (
    <Shelf
      title="Modules"
      placeholder="seek by name"
      all={kept}
      words={(one) => `${one.name} ${one.document.modules[0].help}`}
      className="px-3"
    >
      {(shown) => (
        <>
          {shown.map((one) => (
            <Kept key={one.id} kept={one} onPlace={() => onPlace(one)} onRemove={() => remove(one)} />
          ))}
          {kept.length === 0 && (
            <li className="py-3">
              Nothing is kept yet. On the bench, choose slips, press <kbd className="key">M</kbd> to make them a module,
              and keep it from there.
            </li>
          )}
        </>
      )}
    </Shelf>
  );
}

function Kept({ kept, onPlace, onRemove }: { kept: KeptModule; onPlace: () => void; onRemove: () => void }) {
  const catalogue = useCatalogue();
  const [main] = kept.document.modules;
  const kind = moduleKind(catalogue, kept.document.modules, main);
  const inner = kept.document.modules.length - 1;
  return (
    <li className="border-b border-base-200 py-2">
      <div className="flex items-baseline gap-3">
        <h3 className="font-semibold">{kept.name}</h3>
        <span className="figures text-[var(--mute)]">
          revision {kept.revision}, {main.slips.length} slips
          {inner > 0 && `, ${inner} ${inner === 1 ? "module" : "modules"} within`}
        </span>
        <button type="button" className="ml-auto hover:underline" onClick={onRemove}>
          remove
        </button>
        <button type="button" className="btn btn-xs bg-marker text-[#1d1d1d]" onClick={onPlace}>
          Place on the bench
        </button>
      </div>
      {main.help && <p>{main.help}</p>}
      <p className="text-[var(--mute)]">
        {kind.dials.length > 0 && <>sets {kind.dials.map((dial) => dial.label.toLowerCase()).join(", ")}; </>}
        gives{" "}
        {kind.gives
          .map((port) => `${port.name === "out" ? "" : `${port.name}: `}a ${PORT_WORDS[port.type]}`)
          .join(", ")}
      </p>
    </li>
  );
}
