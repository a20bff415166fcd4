import { Box } from "@chakra-ui/react";
import { memo, useState } from "react";

import type { Print, Recipe } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { useSession } from "../../session/useSession";
import { NumberField } from "../../parts/NumberField";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Figure, Heading } from "../../parts/Words";
import { Refusal, useFraming } from "../useFraming";
import { useShapes } from "../../api/queries";
import type { Seen } from "../../session/model";

type Unit = Print["unit"];

const UNITS: { unit: Unit; label: string }[] = [
  { unit: "mm", label: "A sizes" },
  { unit: "cm", label: "cm" },
  { unit: "in", label: "inches" },
];

const PPI = LIMITS["on paper.ppi"];

/** The widest border that leaves something of the paper. */
const widest = ({ paper }: Print) => Math.floor(Math.min(...paper) * 49) / 100;

/** What the picture is printed on, how fine it comes out, and what a printer would cut off. */
export const PrintPage = memo(function PrintPage({ recipe, read }: { recipe: Recipe; read: Seen }) {
  const session = useSession();
  const ask = useFraming();
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
      <Heading first beside={printed ? printed.paper : "not chosen"}>
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
        {print && <Touch onClick={() => void session.do({ do: "paper", paper: null })}>No print size</Touch>}
      </Columns>
      <OwnPaper key={unit} unit={unit} print={print?.unit === unit ? print : null} longest={shapes?.units.find((one) => one.unit === unit)?.longest ?? 0} onTake={take} />
      {print && printed ? (
        <>
          <Heading beside="portrait or landscape, like the frame">On the paper</Heading>
          <NumberField label="White border" unit={print.unit} digits={2} least={0} most={widest(print)} value={print.border} onAccept={(border) => set({ border })} />
          <NumberField label="Bleed (cut off each edge)" unit={print.unit} digits={2} least={0} most={widest(print)} value={print.trim} onAccept={(trim) => set({ trim })} />
          <NumberField label="Target resolution" unit="ppi" least={PPI[0]} most={PPI[1]} value={print.ppi} onAccept={(ppi) => set({ ppi })} />
          <Box as="dl" m={0} mt="10px" css={{ display: "grid", gridTemplateColumns: "1fr auto", rowGap: "4px", "& dd": { margin: 0, textAlign: "right" } }}>
            <dt>Resolution of this crop</dt>
            <dd>
              <Figure fontWeight={700} color={printed.coarse ? "doubt" : undefined}>
                {printed.ppi.toFixed(0)} ppi
              </Figure>
            </dd>
            <dt>Pixels needed for {print.ppi} ppi</dt>
            <dd>
              <Figure>
                {printed.pixels[0]} × {printed.pixels[1]} px
              </Figure>
            </dd>
          </Box>
          <Aside color={printed.coarse ? "doubt" : "second"}>
            {printed.coarse ? "Below 180 ppi a print looks soft up close. Choose a smaller paper or crop less." : "300 ppi is the usual target; from 180 ppi up the eye sees no difference at reading distance."}
          </Aside>
          <Heading>What the printer cuts off</Heading>
          <div role="status">{printed.cut_words ? `${printed.cut_words}.` : "Nothing: the crop has the proportions of the paper."}</div>
          {printed.cut_words && (
            <Touch mt="8px" w="100%" onClick={() => ask({ do: "paper shape" })}>
              Crop to the paper's proportions
            </Touch>
          )}
        </>
      ) : (
        <Aside>Choose a paper size to see the print resolution and what would be cut off.</Aside>
      )}
      <Refusal />
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
      <NumberField label="Custom width" unit={unit} digits={digits} least={1} most={longest} value={width} onAccept={(to) => setTyped([to, height])} />
      <NumberField label="Custom height" unit={unit} digits={digits} least={1} most={longest} value={height} onAccept={(to) => setTyped([width, to])} />
      {typed && (
        <div className="row" style={{ marginTop: 6 }}>
          <Touch flex="1" onClick={() => onTake([width, height])}>
            Use {width} × {height} {unit}
          </Touch>
        </div>
      )}
    </div>
  );
}
