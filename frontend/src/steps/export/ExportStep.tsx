
import { useState } from "react";

import { type Action, api, type ExportSettings, type Recipe, type Version } from "../../api/client";
import { FORMATS, LIMITS } from "../../api/limits";
import { readNow, recipeNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { useVersions } from "../../api/queries";
import { fetchFile } from "../../parts/fetchFile";
import { useWriting } from "./useWriting";
import { NumberField } from "../../parts/NumberField";
import { Progress } from "../../parts/Progress";
import { noticed, percent } from "../../session/shares";
import { Choice, Touch } from "../../parts/Touch";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { FileName } from "./FileName";
import { Manner } from "./Manner";
import type { Seen } from "../../session/model";

/** Write the picture at full resolution: format, quality, progress, and what goes along in the file. */
export function ExportStep() {
  const session = useSession();
  const bench = useKnown((state) => state.bench);
  const recipe = useKnown(recipeNow);
  const read = useKnown(readNow);
  const versions = useVersions(session.photo);
  const { job, working, refusal, chosen, now } = useWriting();
  if (!bench || !recipe || !read) return null;
  const settings = recipe.export;
  return (
    <div className="leaf">
      <h2 style={{ fontWeight: 700 }}>
        Export
      </h2>
      <div style={{ marginTop: 4, color: "var(--chakra-colors-second)", fontSize: "0.8125rem" }}>
        At full resolution, resampled once from the original. The original is never changed.
      </div>
      {working && job && (
        <div style={{ marginTop: 8 }}>
          <Progress name="Export" share={job.progress} />
          <div className="row" style={{ justifyContent: "space-between", alignItems: "center", marginTop: 6 }}>
            <span>
              {job.words}, {Math.round(job.progress * 100)}%
            </span>
            <Touch onClick={() => void api.cancel(job.id)}>Cancel</Touch>
          </div>
        </div>
      )}
      <div role="status" style={{ marginTop: 8 }}>
        {job?.state === "done" && (
          <>
            Exported as <strong>{job.label}</strong> to your downloads folder.
            {job.filled > 0 && (
              <>
                {" "}
                {percent(job.filled)} of the pixels are new, and the file says so.
                <Touch mt="8px" w="100%" onClick={() => fetchFile(`/api/jobs/${job.id}/mask`)}>
                  Download a mask of the new pixels
                </Touch>
              </>
            )}
            {job.notices.map((notice) => (
              <div key={notice} style={{ marginTop: 6 }}>
                {notice}
              </div>
            ))}
          </>
        )}
        {job?.state === "cancelled" && "Cancelled. No file was made."}
      </div>
      {refusal && (
        <div role="alert" className="told" style={{ marginTop: 8, borderColor: "var(--chakra-colors-plumb)" }}>
          {refusal}
        </div>
      )}
      <Columns mt="10px" gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Format">
        {FORMAT_NAMES.map((format) => (
          <Touch
            key={format}
            aria-pressed={settings.format === format}
            disabled={working}
            onClick={() => settings.format !== format && void session.do({ do: "format", format })}
          >
            {FORMATS[format].called}
          </Touch>
        ))}
      </Columns>
      {FORMATS[settings.format].lossy && (
        <div style={{ marginTop: 6 }}>
          <NumberField
            label={`${FORMATS[settings.format].called} quality (1 to 100)`}
            least={LIMITS["quality.quality"][0]}
            most={LIMITS["quality.quality"][1]}
            disabled={working}
            value={settings.quality}
            onAccept={(quality) => void session.do({ do: "quality", quality })}
          />
        </div>
      )}
      <Size settings={settings} read={read} disabled={working} onChange={(size) => void session.do({ do: "size", ...size })} />
      <Manner settings={settings} disabled={working} />
      <Together
        versions={versions}
        chosen={chosen}
        now={now}
        disabled={working}
        onChange={(versions, now) => session.desk.setState({ picked: { versions, now } })}
      />
      <FileName settings={settings} chosen={chosen} now={now} disabled={working} />
      <div style={{ marginTop: 16, fontSize: "0.8125rem", color: "var(--chakra-colors-second)" }}>
        {read.frame.printed && <>The file will carry the print resolution for {read.frame.printed.paper}. </>}
        {noticed(read.frame.empty) && <>{cornersWords(recipe, read)} </>}
        <a href={`/api/photos/${bench.photo.id}/recipe`} download style={{ textDecoration: "underline" }}>
          Download the settings
        </a>{" "}
        to keep them beside the picture. Camera data (EXIF) are kept.{" "}
        {bench.photo.keeps_place && !settings.leave_out.includes("place") && <strong>So is the location (GPS).</strong>}
      </div>
    </div>
  );
}

const FORMAT_NAMES = Object.keys(FORMATS) as (keyof typeof FORMATS)[];

interface SizeProps {
  settings: ExportSettings;
  read: Seen;
  disabled: boolean;
  onChange: (size: Omit<Extract<Action, { do: "size" }>, "do">) => void;
}

/** What a size is typed by. */
const BY = {
  width: { label: "Custom width", unit: "px" },
  long_edge: { label: "Long edge", unit: "px" },
  percent: { label: "Per cent", unit: "%" },
} as const;

/** How many pixels are written: the frame's own, what the print wants, or what is typed. */
function Size({ settings, read, disabled, onChange }: SizeProps) {
  const { frame } = read;
  const { printed } = frame;
  const { size } = settings;
  const typed = Array.isArray(size) ? size : null;
  const asked = typed || size === null || typeof size === "string" || Array.isArray(size) ? null : (size as { percent?: number; long_edge?: number });
  const [chosen, setChosen] = useState<keyof typeof BY>(asked?.percent ? "percent" : asked?.long_edge ? "long_edge" : "width");
  const values = { width: typed?.[0] ?? frame.width, long_edge: asked?.long_edge ?? Math.max(frame.width, frame.height), percent: asked?.percent ?? 100 };
  return (
    <>
      <Heading beside="pixels">Size</Heading>
      <div className="row" role="group" aria-label="Size" style={{ flexDirection: "column", gap: 6 }}>
        <Touch justifyContent="space-between" fontSize="0.8125rem" disabled={disabled} aria-pressed={size === null} onClick={() => onChange({})}>
          <span>Full size</span>
          <Figure>
            {frame.width} × {frame.height}
          </Figure>
        </Touch>
        <Touch
          justifyContent="space-between"
          fontSize="0.8125rem"
          disabled={disabled || !printed}
          aria-pressed={size === "print"}
          onClick={() => onChange({ width: "print" })}
        >
          <span>{printed ? `Print size, ${printed.paper}` : "Print size (choose a paper under Crop, Print)"}</span>
          {printed && (
            <Figure>
              {printed.pixels[0]} × {printed.pixels[1]}
            </Figure>
          )}
        </Touch>
      </div>
      <div style={{ marginTop: 6, fontSize: "0.8125rem" }}>
        <div className="row" style={{ alignItems: "center", gap: 8 }}>
          <Choice aria-label="Size by" disabled={disabled} value={chosen} onChange={({ target }) => setChosen(target.value as keyof typeof BY)}>
            {Object.entries(BY).map(([name, { label }]) => (
              <option key={name} value={name}>
                {label}
              </option>
            ))}
          </Choice>
          <div style={{ flex: 1 }}>
            <NumberField
              label={BY[chosen].label}
              hidden
              unit={BY[chosen].unit}
              width={5}
              least={LIMITS[`size.${chosen}`][0]}
              most={LIMITS[`size.${chosen}`][1]}
              disabled={disabled}
              value={values[chosen]}
              onAccept={(to) => onChange({ [chosen]: to })}
            />
          </div>
        </div>
        {(typed || asked) && frame.written && (
          <Aside>
            Written as{" "}
            <Figure>
              {frame.written[0]} × {frame.written[1]} px
            </Figure>
            .
          </Aside>
        )}
      </div>
    </>
  );
}

interface TogetherProps {
  versions: Version[];
  chosen: number[];
  now: boolean;
  disabled: boolean;
  onChange: (chosen: number[], now: boolean) => void;
}

/** What to export are written: what is true now, and versions beside it. */
function Together({ versions, chosen, now, disabled, onChange }: TogetherProps) {
  if (!versions.length) return null;
  const toggle = (id: number) => onChange(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id], now);
  return (
    <>
      <Heading beside={chosen.length ? "into one ZIP file" : ""}>What to export</Heading>
      <div className="row" role="group" aria-label="What to export" style={{ flexDirection: "column", gap: 6 }}>
        <Touch justifyContent="flex-start" fontSize="0.8125rem" disabled={disabled} aria-pressed={now} onClick={() => onChange(chosen, !now)}>
          Current state
        </Touch>
        {versions.map(({ id, name, ratio }) => (
          <Touch key={id} justifyContent="space-between" fontSize="0.8125rem" disabled={disabled} aria-pressed={chosen.includes(id)} onClick={() => toggle(id)}>
            <span style={{ overflow: "hidden", textOverflow: "ellipsis" }}>
              {name}
            </span>
            <Figure>{ratio}</Figure>
          </Touch>
        ))}
      </div>
      {chosen.length > 0 && <Aside>Each version is exported in the format and size it was saved with.</Aside>}
    </>
  );
}

/** What is written into empty corners. */
function cornersWords({ edges }: Recipe, read: Seen): string {
  const share = percent(read.frame.empty);
  if (edges.mode === "fill") return `Filled corners (${share} of the frame) are marked in the file as added, not photographed.`;
  if (edges.mode === "leave") return `Empty corners (${share} of the frame) ${edges.colour ? `are filled with ${edges.colour}` : "stay transparent"}.`;
  return `Empty corners (${share} of the frame) will be white.`;
}

