import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";

import type { AngleRow, Recipe } from "../../api/client";
import { keep, keepSoon, look, readNow, recipeNow, useBench } from "../../session/benchStore";
import { handFor, RANGES, withAmount, withFocalFree, withHand, withOn, withProportion } from "../../session/recipeEdits";
import { Touch } from "../../parts/Touch";
import { Vernier } from "../../parts/Vernier";
import { Ways } from "./Ways";

const NAMES = { roll: "Roll", pitch: "Pitch", yaw: "Yaw" } as const;
const PROPORTION_RANGE = 50;

/** What is taken out, pinned to the foot of the field book. */
export function TakenOut() {
  const recipe = useBench(recipeNow);
  const read = useBench(readNow);
  if (!recipe || !read) return null;
  const rows = read.angles.filter((row) => row.name === "roll" || row.sd !== null || row.by_hand !== 0);
  const warped = rows.length > 1 || recipe.correction.proportion !== 1;
  const byHand = rows.filter((row) => recipe.correction.by_hand[row.name] !== 0);
  return (
    <Box px="16px" py="8px" flex="0 1 auto" minH="112px" maxH="44%" overflowY="auto" borderTop="1px solid" borderColor="rule" data-taken-out>
      <Flex justify="space-between" align="center" gap="8px">
        <Box as="h2" fontWeight={700}>
          Taken out
        </Box>
        <Box fontSize="13px" color="second" flex="1">
          {byHand.length ? "partly by hand" : "as the lines say"}
        </Box>
        <Touch px="8px" fontSize="13px" onClick={() => useBench.setState({ byHand: true })}>
          By hand
        </Touch>
      </Flex>
      <Ways />
      {rows.map((row) => (
        <Angle key={row.name} row={row} recipe={recipe} />
      ))}
      {byHand.length > 0 && (
        <Flex gap="6px" mt="6px" wrap="wrap">
          {byHand.map(({ name }) => (
            <Touch
              key={name}
              flex="1"
              px="6px"
              fontSize="13px"
              aria-label={`${NAMES[name]} back to what the lines say`}
              onClick={() => void keep((now) => withHand(now, name, 0), `${NAMES[name]} back to what the lines say`)}
            >
              {NAMES[name]} back
              <Box as="span" fontFamily="mono" fontSize="12px" fontWeight={400}>
                {signed(recipe.correction.by_hand[name])}
              </Box>
            </Touch>
          ))}
        </Flex>
      )}
      {warped && <Proportion recipe={recipe} />}
      {warped && <FocalLength recipe={recipe} words={read.focal.words} />}
    </Box>
  );
}

const signed = (degrees: number) => `${degrees > 0 ? "+" : "−"}${Math.abs(degrees).toFixed(2)}°`;

/** The vernier of an angle; what belongs to it stands at its end, else its amount and the switch. */
export function Angle({ row, recipe, children }: React.PropsWithChildren<{ row: AngleRow; recipe: Recipe }>) {
  const { name } = row;
  const on = recipe.correction.on[name];
  const by_hand = recipe.correction.by_hand[name];
  // The evaluation may be a moment older than what the hand has done since: count that in.
  const value = row.taken_out + (by_hand - row.by_hand);
  const led = (to: number) => {
    const degrees = handFor(recipe, name, to - value);
    return (now: Recipe) => withHand(now, name, degrees);
  };
  return (
    <Vernier
      name={NAMES[name]}
      words={on || by_hand ? row.words : "not taken out"}
      value={value}
      range={RANGES[name]}
      onLead={(to) => look(led(to), true)}
      onLetGo={(to) => void keep(led(to), `${NAMES[name]} changed by hand`)}
      onNudge={(by) => keepSoon(led(value + by), `${NAMES[name]} changed by hand`, true)}
    >
      {children ?? (
        <>
          {row.sd !== null && on && <Amount name={name} share={recipe.correction.amount[name]} />}
          <Touch
            px="6px"
            minW="44px"
            fontSize="13px"
            aria-pressed={!on}
            aria-label={`${NAMES[name]}: none of it`}
            onClick={() => void keep((now) => withOn(now, name, !on), `${NAMES[name]} is ${on ? "not " : ""}taken out`)}
          >
            None
          </Touch>
        </>
      )}
    </Vernier>
  );
}

/** How much of a solved angle is taken out, 0 to 100 %. */
function Amount({ name, share }: { name: AngleRow["name"]; share: number }) {
  const [typed, setTyped] = useState<string | null>(null);
  const set = (next: number) => {
    const clamped = Math.min(1, Math.max(0, Math.round(next * 1000) / 1000));
    if (clamped !== share) void keep((now) => withAmount(now, name, clamped), `${Math.round(clamped * 100)} % of ${name} is taken out`);
  };
  const accept = () => {
    const number = Number((typed ?? "").replace("%", "").replace(",", ".").trim());
    if (typed?.trim() && Number.isFinite(number)) set(number / 100);
    setTyped(null);
  };
  return (
    <Input
      aria-label={`Amount of ${name} in per cent`}
      w="50px"
      flex="none"
      h="42px"
      px="3px"
      bg="touch"
      borderColor="edge"
      fontFamily="mono"
      fontSize="12px"
      textAlign="right"
      value={typed ?? `${Math.round(share * 100)} %`}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={accept}
      onKeyDown={(event) => {
        const by = { ArrowUp: 0.05, ArrowDown: -0.05 }[event.key];
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setTyped(null);
        if (by) {
          event.preventDefault();
          setTyped(null);
          set(share + by);
        }
      }}
    />
  );
}

export function Proportion({ recipe }: { recipe: Recipe }) {
  const value = (recipe.correction.proportion - 1) * 100;
  const led = (to: number) => {
    const proportion = Math.round((1 + to / 100) * 1e5) / 1e5;
    return (now: Recipe) => withProportion(now, proportion);
  };
  return (
    <Vernier
      name="Proportion"
      words={Math.abs(value) < 0.005 ? "as the focal length says" : value > 0 ? "taller than that" : "wider than that"}
      value={value}
      range={PROPORTION_RANGE}
      unit="%"
      onLead={(to) => look(led(to), true)}
      onLetGo={(to) => void keep(led(to), "Proportion changed")}
      onNudge={(by) => keepSoon(led(value + by), "Proportion changed", true)}
    >
      <Touch px="6px" minW="44px" fontSize="13px" disabled={value === 0} aria-label="Proportion back" onClick={() => void keep(led(0), "Proportion back")}>
        Back
      </Touch>
    </Vernier>
  );
}

function FocalLength({ recipe, words }: { recipe: Recipe; words: string }) {
  const free = recipe.correction.free.includes("focal_px");
  return (
    <Flex mt="6px" gap="6px" align="center" justify="space-between" fontSize="13px">
      <Box color="second">Focal length {words}</Box>
      <Touch
        px="8px"
        fontSize="13px"
        flex="none"
        aria-pressed={free}
        onClick={() => void keep((now) => withFocalFree(now, !free), free ? "Focal length as it was known" : "Focal length from the lines")}
      >
        From the lines
      </Touch>
    </Flex>
  );
}
