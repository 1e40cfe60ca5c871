import { useState } from "react";
import type { Share } from "../api/client";
import { Sheet } from "../ui/Sheet";
import { MAY, shareWith, type Thing, takeBack, useGiven, useMe, useOthers, useShares } from "./people";

/** Who has what is on the bench, and what they may. */
export function PeopleSheet({ things, onClose }: { things: Thing[]; onClose: () => void }) {
  const given = useGiven();
  const me = useMe();
  const elsewhere = given.filter((one) => !things.some(({ of }) => of === one.of));
  return (
    <Sheet title="Shared with" onClose={onClose}>
      {things.map((one) => (
        <SharedThing key={one.of} thing={one} />
      ))}
      {me?.is_administrator && (
        <p className="border-t border-base-300 pt-2">
          <a className="underline" href="/admin/">
            Invite somebody, and say how much each may keep
          </a>
        </p>
      )}
      {elsewhere.length > 0 && (
        <section className="mt-3 border-t border-base-300 pt-2" aria-label="All else that you share">
          <h3 className="font-semibold">All else that you share</h3>
          <ul>
            {elsewhere.map((one) => (
              <li key={one.id} className="flex items-baseline gap-2 py-0.5">
                <span className="min-w-0 truncate">{one.called}</span>
                <span className="text-[var(--mute)]">
                  {one.kind}, {one.person} may {one.may}
                </span>
                <button type="button" className="ml-auto min-h-6 hover:underline" onClick={() => takeBack(one.id)}>
                  take back
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </Sheet>
  );
}

function SharedThing({ thing }: { thing: Thing }) {
  const shares = useShares(thing);
  const me = useMe();
  const others = useOthers().filter((name) => !shares.some(({ person }) => person === name));
  return (
    <section className="mb-3" aria-label={`The ${thing.kind} ${thing.name}`}>
      <h3>
        {thing.kind} <b>{thing.name}</b>
      </h3>
      {!thing.isMine && <p className="text-[var(--mute)]">It is somebody else's: its owner says who has it.</p>}
      {thing.isMine && shares.length === 0 && <p className="text-[var(--mute)]">Nobody else has it.</p>}
      <ul>
        {shares.map((one) => (
          <li key={one.id} className="flex items-center gap-2 py-0.5">
            <span className="min-w-0 grow truncate">{one.person}</span>
            <MayChoice
              label={`What ${one.person} may`}
              may={one.may}
              isFixed={!thing.isMine}
              onChange={(may) => shareWith(thing, one.person, may)}
            />
            {!thing.isMine && one.person === me?.name && (
              <button type="button" className="min-h-6 hover:underline" onClick={() => takeBack(one.id)}>
                leave
              </button>
            )}
            {thing.isMine && (
              <button
                type="button"
                className="min-h-6 min-w-6 hover:underline"
                aria-label={`Take it back from ${one.person}`}
                onClick={() => takeBack(one.id)}
              >
                ×
              </button>
            )}
          </li>
        ))}
      </ul>
      {thing.isMine && <NewShare key={shares.length} thing={thing} others={others} />}
    </section>
  );
}

function NewShare({ thing, others }: { thing: Thing; others: string[] }) {
  const [person, setPerson] = useState("");
  const [may, setMay] = useState<Share["may"]>("comment");
  if (!others.length) return <p className="text-[var(--mute)]">Everybody else of this installation has it.</p>;
  return (
    <form
      className="mt-1 flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        shareWith(thing, person, may);
      }}
    >
      <select
        className="select select-xs grow"
        aria-label={`Share the ${thing.kind} with`}
        value={person}
        onChange={(e) => setPerson(e.target.value)}
      >
        <option value="">somebody ...</option>
        {others.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
      <MayChoice label="What they may" may={may} onChange={setMay} />
      <button type="submit" className="btn btn-xs bg-marker text-[#1d1d1d]" disabled={!person}>
        Share
      </button>
    </form>
  );
}

interface MayChoiceProps {
  label: string;
  may: Share["may"];
  isFixed?: boolean;
  onChange: (may: Share["may"]) => void;
}

function MayChoice({ label, may, isFixed, onChange }: MayChoiceProps) {
  return (
    <select
      className="select select-xs w-28"
      aria-label={label}
      value={may}
      disabled={isFixed}
      onChange={(e) => onChange(e.target.value as Share["may"])}
    >
      {MAY.map((one) => (
        <option key={one}>{one}</option>
      ))}
    </select>
  );
}
