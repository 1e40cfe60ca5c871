import { useState } from "react";
import { type DialAbout, type Fault, gridsIn, type KeptFile, wordsOf } from "../api/client";
import { readAnew, useFiles } from "../api/queries";
import { say } from "./numbers";

interface FileDialProps {
  about: DialAbout;
  value: string;
  onChange: (value: string) => void;
}

/** A file that was put in, or a new one. */
export function FileDial({ about, value, onChange }: FileDialProps) {
  const kind = about.holds || "picture";
  const [says, setSays] = useState("");
  const files = useFiles();
  const chosen = files.find((one) => one.sha256 === value && one.kind === kind);
  const told = (name: "says" | "faults") => (chosen?.facts[name] as string[] | undefined) ?? [];
  const put = async (file: File) => {
    setSays(`reading ${file.name} ...`);
    const body = new FormData();
    body.append("file", file);
    const token = document.cookie.match("(?:^|; )csrftoken=([^;]*)")?.[1] ?? "";
    const answer = await fetch(`/api/files/${kind}`, { method: "POST", body, headers: { "X-CSRFToken": token } });
    const given = (await answer.json().catch(() => undefined)) as KeptFile | { faults: Fault[] } | undefined;
    if (!answer.ok || !given || !("sha256" in given)) {
      setSays(wordsOf(given));
      return;
    }
    setSays("");
    await readAnew(["files"]);
    onChange(given.sha256);
  };
  return (
    <div className="py-0.5" data-dial={about.name} title={about.help}>
      <label className="flex items-center justify-between gap-2">
        {about.label}
        <select
          className="select select-xs w-auto max-w-40 bg-transparent"
          value={value}
          onChange={(e) => onChange(e.target.value)}
        >
          <option value="">none yet</option>
          {files
            .filter((one) => one.kind === kind)
            .map((one) => (
              <option key={one.sha256} value={one.sha256}>
                {one.name}
              </option>
            ))}
        </select>
      </label>
      <input
        type="file"
        className="file-input file-input-xs mt-1 w-full"
        accept={about.accepts}
        aria-label={`Put in a ${kind}`}
        onChange={(e) => e.target.files?.[0] && put(e.target.files[0])}
      />
      {says && <p role="status">{says}</p>}
      {(chosen ? gridsIn(chosen) : []).map((grid) => (
        <p key={grid.name} className="mt-1">
          <b>{grid.name}</b> {grid.size.join(" × ")} voxels, {say(grid.low)} to {say(grid.high)}, {say(grid.megabytes)}{" "}
          MB; for {grid.drives}
        </p>
      ))}
      {told("says").map((line) => (
        <p key={line} className="mt-1">
          {line}
        </p>
      ))}
      {told("faults").map((fault) => (
        <p key={fault} role="alert" className="mt-1">
          {fault}
        </p>
      ))}
    </div>
  );
}
