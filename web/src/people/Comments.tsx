import { useEffect, useState } from "react";
import { useCatalogue } from "../api/catalogue";
import type { Comment, Proof } from "../api/client";
import { useDocuments } from "../bench/documents";
import { differences } from "../picture/differences";
import { comment, takeCommentBack, usePointed } from "./people";

interface CommentsProps {
  proof: Proof;
  comments: Comment[];
  mayComment: boolean;
  /** Whether the material is the person's own. */
  isMine: boolean;
}

/** What was said of a proof, and what changed since. */
export function Comments({ proof, comments, mayComment, isMine }: CommentsProps) {
  const catalogue = useCatalogue();
  const material = useDocuments((s) => s.material);
  const chosen = usePointed((s) => s.chosen);
  const since = differences(catalogue, proof.document, material);
  return (
    <section
      className="flex min-h-0 grow flex-col border-t border-base-300 bg-base-100 text-base-content"
      aria-label={`Said of proof ${proof.number}`}
    >
      <ol className="min-h-0 grow overflow-y-auto px-3 py-2" aria-label="Comments">
        {comments.length === 0 && <li className="text-[var(--mute)]">Nothing was said of this proof yet.</li>}
        {comments.map((one, i) => (
          <li
            key={one.id}
            className={`flex items-baseline gap-2 border-b border-base-300 py-1 ${one.id === chosen ? "bg-base-200" : ""}`}
          >
            <button
              type="button"
              className="figures min-h-6 min-w-6 border border-base-content"
              aria-label={`Show where comment ${i + 1} points`}
              disabled={!one.at}
              onClick={() => usePointed.setState({ at: undefined, chosen: one.id })}
            >
              {i + 1}
            </button>
            <p className="min-w-0 grow">
              <b>{one.author}</b> <span className="whitespace-pre-wrap break-words">{one.says}</span>
            </p>
            <time className="figures whitespace-nowrap text-[11px] text-[var(--mute)]" dateTime={one.made_at}>
              {new Date(one.made_at).toLocaleString(undefined, { dateStyle: "short", timeStyle: "short" })}
            </time>
            {(one.is_mine || isMine) && (
              <button
                type="button"
                className="min-h-6 min-w-6"
                aria-label={`Remove comment ${i + 1}`}
                onClick={() => takeCommentBack(one.id)}
              >
                ×
              </button>
            )}
          </li>
        ))}
      </ol>
      <p
        className="truncate px-3 text-[11px]"
        role="note"
        aria-label="Changed since this proof"
        title={since.join("\n")}
      >
        {since.length ? `Since: ${since.join("; ")}` : "Nothing has changed since this proof."}
      </p>
      {mayComment && <NewComment proof={proof} />}
    </section>
  );
}

function NewComment({ proof }: { proof: Proof }) {
  const at = usePointed((s) => s.at);
  const [says, setSays] = useState("");
  useEffect(() => () => usePointed.setState({ at: undefined, chosen: undefined }), []);
  const say = async () => {
    if (await comment(proof.id, says, at)) {
      setSays("");
      usePointed.setState({ at: undefined });
    }
  };
  return (
    <form
      className="flex items-center gap-2 px-3 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        say();
      }}
    >
      <input
        className="input input-xs grow"
        aria-label="Say something of this proof"
        placeholder={at ? "of the place that you point at" : "of the whole picture; click in it to point at a place"}
        maxLength={2000}
        value={says}
        onChange={(e) => setSays(e.target.value)}
      />
      {at && (
        <button
          type="button"
          className="min-h-6 hover:underline"
          onClick={() => usePointed.setState({ at: undefined })}
        >
          the whole
        </button>
      )}
      <button type="submit" className="btn btn-xs bg-marker text-[#1d1d1d]" disabled={!says.trim()}>
        Say
      </button>
    </form>
  );
}
