import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type ExportSettings, type ManySettings } from "../api/client";
import { FORMATS, LIMITS } from "../api/limits";
import { Among } from "../parts/Among";
import { photosWords } from "../parts/figures";
import { NumberField } from "../parts/NumberField";
import { Switch } from "../parts/Switch";
import { Choice, Touch } from "../parts/Touch";
import { useChosen } from "./chosen";
import { begin } from "./working";

type Format = keyof typeof FORMATS;
type LeftOut = ExportSettings["leave_out"][number];

const LEFT_OUT: Record<LeftOut, string> = { place: "Location", serials: "Serial numbers", recipe: "Steps" };
const FIRST = {
  format: "jpeg",
  quality: 95,
  size: null,
  depth: null,
  profile: "keep",
  sharpen: 0,
  leave_out: [],
  name: null,
} as ManySettings;

/** One sheet of settings for all photos that are chosen. */
export function ExportPanel() {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const { data: folder } = useQuery({ queryKey: ["exports folder"], queryFn: api.exportsFolder, staleTime: Infinity });
  const [settings, set] = useState<ManySettings>(FIRST);
  const [versions, setVersions] = useState(false);
  const [into, setInto] = useState<"zip" | "folder">("zip");
  const edge = settings.size !== null && typeof settings.size === "object" && "long_edge" in settings.size ? (settings.size.long_edge as number) : null;
  const change = (part: Partial<ManySettings>) => set((before) => ({ ...before, ...part }));
  // What a format cannot hold is not asked of it.
  const changeFormat = (format: Format) => change({ format, depth: null, ...(FORMATS[format].profiles ? {} : { profile: "srgb" as const }) });
  const press = () =>
    void begin(queries, () => api.exportMany([...numbers], settings, versions, into === "folder")).then((begun) => begun && useChosen.setState({ panel: null }));
  return (
    <section className="sheet-panel" aria-label="Export">
      <Among
        words="Format"
        value={settings.format}
        from={Object.entries(FORMATS).map(([format, { called }]) => [format, called])}
        onChange={(format) => changeFormat(format as Format)}
      />
      {FORMATS[settings.format].lossy && (
        <NumberField
          label="Quality"
          least={LIMITS["quality.quality"][0]}
          most={LIMITS["quality.quality"][1]}
          width={3.5}
          value={settings.quality}
          onAccept={(quality) => change({ quality: Math.round(quality) })}
        />
      )}
      <Among
        words="Size"
        value={edge === null ? "full" : "edge"}
        from={[["full", "full size"], ["edge", "long edge"]]}
        onChange={(size) => change({ size: size === "full" ? null : { long_edge: 3000 } })}
      />
      {edge !== null && (
        <NumberField
          label="Long edge"
          unit="px"
          least={LIMITS["size.long_edge"][0]}
          most={LIMITS["size.long_edge"][1]}
          width={4.5}
          value={edge}
          onAccept={(long_edge) => change({ size: { long_edge: Math.round(long_edge) } })}
        />
      )}
      <label className="narrow">
        <span className="beside">File names</span>
        <input
          className="words"
          style={{ width: "15rem" }}
          aria-label="File names"
          placeholder="{file} {version}"
          title="In braces: file, title, version, ratio, date, n (a number)"
          maxLength={200}
          defaultValue={settings.name ?? ""}
          onChange={({ target }) => change({ name: target.value.trim() || null })}
        />
      </label>
      <div className="row" role="group" aria-label="Not in the files" style={{ gap: 12, alignItems: "center" }}>
        <span className="beside">Leave out</span>
        {Object.entries(LEFT_OUT).map(([name, words]) => {
          const part = name as LeftOut;
          const on = settings.leave_out.includes(part);
          return <Switch key={part} on={on} label={words} onTurn={() => change({ leave_out: on ? settings.leave_out.filter((one) => one !== part) : [...settings.leave_out, part] })} />;
        })}
      </div>
      <Among
        words="Colours"
        value={settings.profile}
        from={[["keep", "as the photo"], ["srgb", "sRGB"], ["display-p3", "Display P3"]]}
        onChange={(profile) => change({ profile: profile as ExportSettings["profile"] })}
      />
      {FORMATS[settings.format].deep > 0 && (
        <Among
          words="Bits a colour"
          value={settings.depth === null ? "" : settings.depth > 8 ? "deep" : "8"}
          from={[["", "as the photo"], ["8", "8"], ["deep", String(FORMATS[settings.format].deep)]]}
          onChange={(bits) => change({ depth: bits === "" ? null : bits === "8" ? 8 : (FORMATS[settings.format].deep as 10 | 16) })}
        />
      )}
      <Among
        words="Sharpen"
        value={String(settings.sharpen)}
        from={[["0", "off"], ["0.25", "a little"], ["0.5", "medium"], ["1", "strong"]]}
        onChange={(amount) => change({ sharpen: Number(amount) })}
      />
      <Switch on={versions} label="Versions too" onTurn={() => setVersions(!versions)} />
      <label className="narrow">
        <span className="beside">Into</span>
        <Choice value={into} onChange={({ target }) => setInto(target.value as typeof into)}>
          <option value="zip">a ZIP file</option>
          <option value="folder" disabled={!folder}>
            {folder ? "the exports folder" : "a folder (start with --exports)"}
          </option>
        </Choice>
      </label>
      <span style={{ flex: 1 }} />
      <Touch className="boxed" onClick={press}>
        Export {photosWords(numbers.size)}
      </Touch>
    </section>
  );
}
