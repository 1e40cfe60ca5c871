import type { KeptModule, Module, Slip } from "../api/client";
import { useDocuments } from "../bench/documents";
import { useKeptModules } from "../library/keptModules";
import { tell } from "../ui/told";
import { detach, keepModule, openUse, takeApart, takeNewer } from "./grouping";
import { usesOf } from "./modules";

/** A later revision of a module in the library. */
function newerOf(kept: KeptModule[], module?: Module): KeptModule | undefined {
  return kept.find((one) => one.id === module?.kept?.id && one.revision > (module?.kept?.revision ?? 0));
}

/** Said on the slip when the library has a later revision of its module. */
export function NewerSign({ slip }: { slip: Slip }) {
  const module = useDocuments((s) => s.material.modules.find((one) => one.id === slip.module));
  const { kept } = useKeptModules();
  return newerOf(kept, module) ? <p className="px-2 text-[11px]">newer in the library</p> : null;
}

/** What can be done with the module of a slip. */
export function ModuleActions({ slip }: { slip: Slip }) {
  const material = useDocuments((s) => s.material);
  const { kept, refresh } = useKeptModules();
  const module = material.modules.find((one) => one.id === slip.module);
  if (!module) return null;
  const newer = newerOf(kept, module);
  const uses = usesOf(material, module.id);
  const keep = async () => {
    tell(await keepModule(module.id));
    refresh();
  };
  return (
    <div className="mt-1 border-t border-base-300 pt-1" role="group" aria-label={`Module ${module.name}`}>
      <p className="text-[11px] text-[var(--mute)]">
        {uses === 1 ? "used once" : `used ${uses} times; all follow it`}
        {module.kept ? `; library revision ${module.kept.revision}` : ""}
      </p>
      {newer && (
        <button type="button" className="action" onClick={() => takeNewer(module.id, newer)}>
          <span className="marked">newer in the library: take it</span>
        </button>
      )}
      <div className="flex flex-wrap gap-x-2.5">
        <button type="button" className="action" onClick={() => openUse(slip.id)}>
          open
        </button>
        {uses > 1 && (
          <button
            type="button"
            className="action"
            title="Give this one a module of its own"
            onClick={() => detach(slip.id)}
          >
            detach
          </button>
        )}
        <button type="button" className="action" title="Put its slips back" onClick={() => takeApart(slip.id)}>
          take apart
        </button>
        <button type="button" className="action" onClick={keep}>
          {module.kept ? "update the library" : "keep in the library"}
        </button>
      </div>
    </div>
  );
}
