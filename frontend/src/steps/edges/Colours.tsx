import { Box } from "@chakra-ui/react";

import { Touch } from "../../parts/Touch";
import { Columns, Heading } from "../../parts/Words";

const COLOURS = [
  { colour: null, label: "Clear" },
  { colour: "#ffffff", label: "White" },
  { colour: "#a3a3a3", label: "Grey" },
  { colour: "#000000", label: "Black" },
] as const;

/** What empty corners are left in: clear, or a colour. */
export function Colours({ colour, onTake }: { colour: string | null; onTake: (colour: string | null) => void }) {
  return (
    <>
      <Heading beside={colour === null ? "as PNG" : ""}>Left in</Heading>
      <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="What empty corners are left in">
        {COLOURS.map((one) => (
          <Touch key={one.label} aria-pressed={colour === one.colour} onClick={() => colour !== one.colour && onTake(one.colour)}>
            {one.colour && <Box as="span" aria-hidden="true" w="16px" h="16px" border="1px solid" borderColor="edge" style={{ background: one.colour }} />}
            {one.label}
          </Touch>
        ))}
      </Columns>
      <Box as="label" display="flex" justifyContent="space-between" alignItems="center" mt="6px" minH="40px">
        Another colour
        <input
          key={colour}
          type="color"
          defaultValue={colour ?? "#ffffff"}
          onBlur={(event) => event.target.value !== (colour ?? "#ffffff") && onTake(event.target.value)}
          style={{ width: 64, height: 36 }}
        />
      </Box>
    </>
  );
}
