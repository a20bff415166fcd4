import type { ExportSettings } from "../../api/client";
import { FORMATS } from "../../api/limits";
import { Switch } from "../../parts/Switch";
import { Choice } from "../../parts/Touch";
import { Aside } from "../../parts/Words";
import { useSession } from "../../session/useSession";

const LEFT_OUT = { place: "location", serials: "serial numbers", recipe: "steps" } as const;

/** How strongly a file is sharpened, in words. */
const AMOUNTS = [
  { amount: 0, words: "off" },
  { amount: 0.25, words: "a little" },
  { amount: 0.5, words: "medium" },
  { amount: 1, words: "strong" },
];

interface Props {
  settings: ExportSettings;
  disabled: boolean;
}

/** How the file is written, folded away at first: bits, colours, sharpness, what does not go along in the metadata. */
export function Manner({ settings, disabled }: Props) {
  const session = useSession();
  const format = FORMATS[settings.format];
  return (
    <details className="folded">
      <summary>
        File details <span className="beside">{summary(settings)}</span>
      </summary>
      {format.deep > 0 && (
        <Row label="Bits a colour">
          <Choice
            aria-label="Bits a colour"
            disabled={disabled}
            value={settings.depth === null ? "" : settings.depth > 8 ? "deep" : "8"}
            onChange={({ target }) => void session.do({ do: "depth", depth: target.value === "8" ? 8 : target.value === "deep" ? (format.deep as 10 | 16) : null })}
          >
            <option value="">as the photo</option>
            <option value="8">8</option>
            <option value="deep">{format.deep}</option>
          </Choice>
        </Row>
      )}
      {(settings.format === "jpeg" || settings.format === "avif") && (
        <Row label="Colour detail">
          <Choice
            aria-label="Colour detail"
            disabled={disabled}
            value={settings.subsampling}
            onChange={({ target }) => void session.do({ do: "subsampling", subsampling: target.value === "420" ? "420" : "444" })}
          >
            <option value="444">full (4:4:4)</option>
            <option value="420">half, smaller file (4:2:0)</option>
          </Choice>
        </Row>
      )}
      {settings.format === "jpeg" && (
        <Row label="Progressive">
          <Switch on={settings.progressive} label="show coarsely while loading" onTurn={() => void session.do({ do: "progressive", on: !settings.progressive })} />
        </Row>
      )}
      {settings.format === "tiff" && (
        <Row label="Compression">
          <Choice
            aria-label="Compression"
            disabled={disabled}
            value={settings.compression}
            onChange={({ target }) => void session.do({ do: "compression", compression: target.value as ExportSettings["compression"] })}
          >
            <option value="deflate">Deflate</option>
            <option value="lzw">LZW</option>
            <option value="none">none</option>
          </Choice>
        </Row>
      )}
      {format.profiles ? (
        <Row label="Colours">
          <Choice
            aria-label="Colours"
            disabled={disabled}
            value={settings.profile}
            onChange={({ target }) => void session.do({ do: "colours", profile: target.value as ExportSettings["profile"] })}
          >
            <option value="keep">the photo’s own profile</option>
            <option value="srgb">convert to sRGB</option>
            <option value="display-p3">convert to Display P3</option>
          </Choice>
        </Row>
      ) : (
        <Aside>A {format.called} is written in sRGB.</Aside>
      )}
      <Row label="Sharpen">
        <span className="row" style={{ gap: 5 }}>
          <Choice
            aria-label="Sharpen"
            disabled={disabled}
            value={settings.sharpen}
            onChange={({ target }) => void session.do({ do: "sharpen", amount: Number(target.value), to: settings.sharpen_for })}
          >
            {[...AMOUNTS, ...(AMOUNTS.some(({ amount }) => amount === settings.sharpen) ? [] : [{ amount: settings.sharpen, words: `${Math.round(100 * settings.sharpen)}%` }])].map(({ amount, words }) => (
              <option key={amount} value={amount}>
                {words}
              </option>
            ))}
          </Choice>
          {settings.sharpen > 0 && (
            <Choice
              aria-label="Sharpen for"
              disabled={disabled}
              value={settings.sharpen_for}
              onChange={({ target }) => void session.do({ do: "sharpen", amount: settings.sharpen, to: target.value === "paper" ? "paper" : "screen" })}
            >
              <option value="screen">for screens</option>
              <option value="paper">for paper</option>
            </Choice>
          )}
        </span>
      </Row>
      <div role="group" aria-label="Leave out">
        <div>Leave out of the file</div>
        <span className="row" style={{ gap: 10, flexWrap: "wrap" }}>
          {(Object.keys(LEFT_OUT) as (keyof typeof LEFT_OUT)[]).map((what) => (
            <Switch
              key={what}
              on={settings.leave_out.includes(what)}
              label={LEFT_OUT[what]}
              onTurn={() => void session.do({ do: "leave out", what, out: !settings.leave_out.includes(what) })}
            />
          ))}
        </span>
      </div>
    </details>
  );
}

/** What is chosen of it, short. */
function summary({ format, depth, profile, progressive, sharpen, leave_out }: ExportSettings): string {
  const { deep, profiles } = FORMATS[format];
  const bits = deep === 0 ? "" : depth === null ? "bits as the photo" : `${depth > 8 ? deep : 8} bits`;
  const colours = { keep: "own profile", srgb: "sRGB", "display-p3": "Display P3" }[profiles ? profile : "srgb"];
  const out = leave_out.length ? `without ${leave_out.map((one) => LEFT_OUT[one]).join(", ")}` : "";
  return [bits, colours, format === "jpeg" && progressive ? "progressive" : "", sharpen > 0 ? "sharpened" : "", out].filter(Boolean).join(" · ");
}

function Row({ label, children }: React.PropsWithChildren<{ label: string }>) {
  return (
    <div className="row" style={{ justifyContent: "space-between", alignItems: "center", gap: 8, minHeight: 36 }}>
      <span>{label}</span>
      {children}
    </div>
  );
}
