import { Box } from "@chakra-ui/react";
import { memo, useState } from "react";

import type { Print, Recipe } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { useSession } from "../../session/useSession";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { Told, useFraming } from "../useFraming";
import { useShapes } from "../../api/queries";
import type { Seen } from "../../session/model";

type Unit = Print["unit"];

const UNITS: { unit: Unit; label: string }[] = [
  { unit: "mm", label: "ISO 216" },
  { unit: "cm", label: "cm" },
  { unit: "in", label: "inches" },
];

const PPI = LIMITS["on paper.ppi"];

/** The widest border that leaves something of the paper. */
const widest = ({ paper }: Print) => Math.floor(Math.min(...paper) * 49) / 100;

/** What the picture is printed on, how fine it comes out, and what a printer would cut off. */
export const PrintPage = memo(function PrintPage({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const session = useSession();
  const { ask, told } = useFraming();
  const shapes = useShapes();
  const { print } = recipe.frame;
  const [unit, setUnit] = useState<Unit>(print?.unit ?? "mm");
  const { printed } = read.frame;
  const set = (part: Partial<Pick<Print, "border" | "trim" | "ppi">>) => void session.do({ do: "on paper", ...part });
  const same = (paper: readonly number[], of: Unit) =>
    print !== null && print.unit === of && [...paper].sort().join() === [...print.paper].sort().join();
  const take = (paper: [number, number]) => void session.do({ do: "paper", paper, unit });
  return (
    <>
      <Heading first beside={printed ? printed.paper : "none chosen"}>
        Paper
      </Heading>
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Unit of the paper">
        {UNITS.map((one) => (
          <Touch key={one.unit} aria-pressed={unit === one.unit} onClick={() => setUnit(one.unit)}>
            {one.label}
          </Touch>
        ))}
      </Columns>
      <Columns mt="6px" gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="Paper">
        {shapes?.papers
          .filter((one) => one.unit === unit)
          .map((one) => (
            <Touch key={one.label} aria-pressed={same(one.paper, one.unit)} onClick={() => take(one.paper)}>
              {one.label}
            </Touch>
          ))}
        {print && <Touch onClick={() => void session.do({ do: "paper", paper: null })}>No paper</Touch>}
      </Columns>
      <OwnPaper key={unit} unit={unit} print={print?.unit === unit ? print : null} longest={shapes?.units.find((one) => one.unit === unit)?.longest ?? 0} onTake={take} />
      {print && printed ? (
        <>
          <Heading beside="lying or upright as the frame is">On the paper</Heading>
          <NumberField label="White border" unit={print.unit} digits={2} least={0} most={widest(print)} value={print.border} onAccept={(border) => set({ border })} />
          <NumberField label="Cut off all round" unit={print.unit} digits={2} least={0} most={widest(print)} value={print.trim} onAccept={(trim) => set({ trim })} />
          <NumberField label="Wanted" unit="ppi" least={PPI[0]} most={PPI[1]} value={print.ppi} onAccept={(ppi) => set({ ppi })} />
          <Box as="dl" m={0} mt="10px" css={{ display: "grid", gridTemplateColumns: "1fr auto", rowGap: "4px", "& dd": { margin: 0, textAlign: "right" } }}>
            <dt>The frame's pixels give</dt>
            <dd>
              <Figure fontWeight={700} color={printed.coarse ? "doubt" : undefined}>
                {printed.ppi.toFixed(0)} ppi
              </Figure>
            </dd>
            <dt>For {print.ppi} ppi it needs</dt>
            <dd>
              <Figure>
                {printed.pixels[0]} × {printed.pixels[1]} px
              </Figure>
            </dd>
          </Box>
          <Aside color={printed.coarse ? "doubt" : "second"}>
            {printed.coarse ? "Under 180 ppi a print shows its pixels: take a smaller paper or a larger frame." : "300 ppi is usual; from 180 it does not show."}
          </Aside>
          <Heading>What is lost</Heading>
          <div role="status">{printed.cut_words ? `${printed.cut_words}.` : "Nothing: the frame has the shape of the paper."}</div>
          {printed.cut_words && (
            <Touch mt="8px" w="100%" onClick={() => void ask({ do: "paper shape" })}>
              Take the shape of the paper
            </Touch>
          )}
        </>
      ) : (
        <Aside>Choose a paper to see how fine the print will be and what would be cut off.</Aside>
      )}
      <Told told={told} />
    </>
  );
});

interface OwnProps {
  unit: Unit;
  print: Print | null;
  longest: number;
  onTake: (paper: [number, number]) => void;
}

/** A paper of any size. */
function OwnPaper({ unit, print, longest, onTake }: OwnProps) {
  const [typed, setTyped] = useState(print?.paper ?? null);
  const [width, height] = typed ?? print?.paper ?? [30, 20];
  const digits = unit === "mm" ? 0 : 2;
  return (
    <div style={{ marginTop: 6 }}>
      <NumberField label="Own width" unit={unit} digits={digits} least={1} most={longest} value={width} onAccept={(to) => setTyped([to, height])} />
      <NumberField label="Own height" unit={unit} digits={digits} least={1} most={longest} value={height} onAccept={(to) => setTyped([width, to])} />
      {typed && (
        <div className="row" style={{ marginTop: 6 }}>
          <Touch flex="1" onClick={() => onTake([width, height])}>
            Take {width} × {height} {unit}
          </Touch>
        </div>
      )}
    </div>
  );
}
