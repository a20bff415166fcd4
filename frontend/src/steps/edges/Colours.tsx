import { Touch } from "../../parts/Touch";
import { Columns, Heading } from "../../parts/Words";

const COLOURS = [
  { colour: null, label: "Transparent" },
  { colour: "#ffffff", label: "White" },
  { colour: "#a3a3a3", label: "Grey" },
  { colour: "#000000", label: "Black" },
] as const;

/** Colour of the empty corners: clear, or a colour. */
export function Colours({ colour, onTake }: { colour: string | null; onTake: (colour: string | null) => void }) {
  return (
    <>
      <Heading beside={colour === null ? "exported as PNG" : ""}>Colour of the empty corners</Heading>
      <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="Colour of the empty corners">
        {COLOURS.map((one) => (
          <Touch key={one.label} aria-pressed={colour === one.colour} onClick={() => colour !== one.colour && onTake(one.colour)}>
            {one.colour && <span aria-hidden="true" style={{ ...{ background: one.colour }, width: 16, height: 16, border: "1px solid", borderColor: "var(--chakra-colors-edge)" }} />}
            {one.label}
          </Touch>
        ))}
      </Columns>
      <label style={{ display: "flex", justifyContent: "space-between", alignItems: "center", marginTop: 6, minHeight: 40 }}>
        Custom colour
        <input
          key={colour}
          type="color"
          defaultValue={colour ?? "#ffffff"}
          onBlur={(event) => event.target.value !== (colour ?? "#ffffff") && onTake(event.target.value)}
          style={{ width: 64, height: 36 }}
        />
      </label>
    </>
  );
}
