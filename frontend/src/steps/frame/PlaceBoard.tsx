import { capital } from "../../parts/sentence";
import { useMedia } from "../../parts/useMedia";
import { type CSSProperties, useState } from "react";

import type { Action, Recipe, Reference } from "../../api/client";
import { useDesk, useSession } from "../../session/useSession";
import { wallsOf } from "../../session/walls";
import { Choice, Touch } from "../../parts/Touch";
import { Aside, Columns, Heading } from "../../parts/Words";
import { Refusal, useFraming } from "../useFraming";
import { SHARES } from "../../api/limits";

type What = Extract<Action, { do: "place" }>["what"];

const THINGS: { what: What; label: string }[] = [
  { what: "subject", label: "Subject" },
  { what: "level", label: "Horizon" },
  { what: "plumb", label: "Middle of two verticals" },
];

/** Sizes of the board in CSS px: what is outside for the lines, the frame, what is touched. */
const FINE = { rim: 30, wide: 240, high: 150, spot: 28 };
const COARSE = { rim: 40, wide: 234, high: 210, spot: 40 };

/** A small frame with the lines of one family; touching a line or a crossing puts the chosen thing on it. */
export function PlaceBoard({ recipe }: { recipe: Recipe }) {
  const session = useSession();
  const ask = useFraming();
  const chosenWalls = useDesk((state) => state.walls);
  const [wanted, setWhat] = useState<What>("subject");
  const [family, setFamily] = useState<keyof typeof SHARES>("thirds");
  const [horizon, setHorizon] = useState<string | null>(null);
  const levels = recipe.references.filter(({ kind }) => kind === "level");
  const plumbs = recipe.references.filter(({ kind }) => kind === "plumb");
  const walls = wallsOf(recipe, chosenWalls);
  const level = levels.find(({ id }) => id === horizon) ?? levels[0];
  const can: Record<What, boolean> = { subject: recipe.frame.subject !== null, level: level !== undefined, plumb: walls !== null };
  const what = can[wanted] ? wanted : (THINGS.find((one) => can[one.what])?.what ?? null);
  const shares = SHARES[family];
  const numbered = (one: Reference) => `line ${recipe.references.indexOf(one) + 1}`;

  const put = (across: number | null, down: number | null) => {
    if (!what) return;
    const lines = what === "level" && level ? [level.id] : what === "plumb" && walls ? walls.map(({ id }) => id) : [];
    ask({ do: "place", what, lines, across: what === "level" ? null : across, down: what === "plumb" ? null : down });
  };
  return (
    <>
      <Heading beside="moves the frame, and makes it smaller if need be">Place on a line</Heading>
      <Columns gridTemplateColumns="repeat(3, 1fr)" role="group" aria-label="What to place">
        {THINGS.map((one) => (
          <Touch key={one.what} px="2px" disabled={!can[one.what]} aria-pressed={what === one.what} onClick={() => setWhat(one.what)}>
            {one.label}
          </Touch>
        ))}
      </Columns>
      {what === "level" && levels.length > 1 && (
        <Choice mt="6px" w="100%" aria-label="Which line is the horizon" value={level?.id} onChange={(event) => setHorizon(event.target.value)}>
          {levels.map((one) => (
            <option key={one.id} value={one.id}>
              {numbered(one)}
            </option>
          ))}
        </Choice>
      )}
      {plumbs.length > 2 && walls && (
        <div className="row" style={{ marginTop: 6, gap: 6, alignItems: "center", fontSize: "0.8125rem" }}>
          {([0, 1] as const).map((at) => (
            <Choice
              key={at}
              flex="1"
              aria-label={at === 0 ? "First vertical" : "Second vertical"}
              value={walls[at].id}
              onChange={(event) => session.desk.setState({ walls: at === 0 ? [event.target.value, walls[1].id] : [walls[0].id, event.target.value] })}
            >
              {plumbs
                .filter((one) => one !== walls[1 - at])
                .map((one) => (
                  <option key={one.id} value={one.id}>
                    vertical: {numbered(one)}
                  </option>
                ))}
            </Choice>
          ))}
        </div>
      )}
      {what ? (
        <>
          <Columns mt="6px" gridTemplateColumns="repeat(4, 1fr)" role="group" aria-label="Which lines">
            {(Object.keys(SHARES) as (keyof typeof SHARES)[]).map((name) => (
              <Touch key={name} aria-pressed={family === name} onClick={() => setFamily(name)}>
                {capital(name)}
              </Touch>
            ))}
          </Columns>
          <Board shares={shares} upright={what !== "level"} level={what !== "plumb"} onPut={put} />
        </>
      ) : (
        <Aside>Mark the subject above, or draw a horizontal or two verticals at the step Lines; then you can place it here.</Aside>
      )}
      <Refusal />
    </>
  );
}

interface BoardProps {
  shares: readonly number[];
  /** Whether the thing can be put on upright and on level lines. */
  upright: boolean;
  level: boolean;
  onPut: (across: number | null, down: number | null) => void;
}

const share = (value: number) => `${(value * 100).toFixed(0)}%`;

function Board({ shares, upright, level, onPut }: BoardProps) {
  const { rim, wide, high, spot: size } = useMedia("(pointer: coarse)") ? COARSE : FINE;
  const spot = (left: number, top: number): CSSProperties => ({ position: "absolute", left, top, width: size, height: size, minHeight: size, padding: 0, transform: "translate(-50%, -50%)" });
  return (
    <div role="group" aria-label="Lines of the frame" style={{ position: "relative", marginTop: 8, height: `${rim + high + 6}px` }}>
      <div style={{ position: "absolute", left: `${rim}px`, top: `${rim}px`, width: `${wide}px`, height: `${high}px`, border: "2px solid", borderColor: "var(--chakra-colors-ink)", background: "var(--chakra-colors-touch)" }} />
      {shares.map((at) => (
        <div key={at}>
          {upright && <div style={{ position: "absolute", left: `${rim + wide * at}px`, top: `${rim}px`, width: 1, height: `${high}px`, background: "var(--chakra-colors-edge)" }} />}
          {level && <div style={{ position: "absolute", left: `${rim}px`, top: `${rim + high * at}px`, width: `${wide}px`, height: 1, background: "var(--chakra-colors-edge)" }} />}
        </div>
      ))}
      {upright &&
        shares.map((at) => (
          <Touch key={`across ${at}`} style={spot(rim + wide * at, rim / 2)} aria-label={`On the vertical line ${share(at)} from the left`} onClick={() => onPut(at, null)}>
            │
          </Touch>
        ))}
      {level &&
        shares.map((at) => (
          <Touch key={`down ${at}`} style={spot(rim / 2, rim + high * at)} aria-label={`On the horizontal line ${share(at)} from the top`} onClick={() => onPut(null, at)}>
            ─
          </Touch>
        ))}
      {upright &&
        level &&
        shares.flatMap((across) =>
          shares.map((down) => (
            <Touch
              key={`${across} ${down}`}
              borderRadius="50%"
              style={spot(rim + wide * across, rim + high * down)}
              aria-label={`Where the lines at ${share(across)} from the left and ${share(down)} from the top cross`}
              onClick={() => onPut(across, down)}
            >
              +
            </Touch>
          )),
        )}
    </div>
  );
}
