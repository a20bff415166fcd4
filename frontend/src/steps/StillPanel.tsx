import { GRID_NAMES } from "../stage/StageControls";
import { capital } from "../parts/sentence";
import { addStill, removeStill, stillName } from "../session/desk";
import type { Grid } from "../session/model";
import { usePreferences } from "../session/preferences";
import { useDesk, useSession } from "../session/useSession";
import { Touch } from "../parts/Touch";

const GRIDS: Grid[] = ["none", "coarse", "fine", "square"];

/** Grid and guides while the picture moves: a grid, and any number of lines that tell what the picture does there. */
export function StillPanel() {
  const session = useSession();
  const step = useDesk((state) => state.step);
  const grids = usePreferences((state) => state.grids);
  const still = useDesk((state) => state.still);
  const under = useDesk((state) => state.under);
  return (
    <>
      <h2 style={{ fontWeight: 700 }}>
        Grid and guides
      </h2>
      <div className="row" role="group" aria-label="Grid" style={{ marginTop: 6, gap: 5 }}>
        {GRIDS.map((grid) => (
          <Touch
            key={grid}
            flex="1"
            px="4px"
            fontSize="0.8125rem"
            aria-pressed={grids[step] === grid}
            onClick={() => usePreferences.setState({ grids: { ...grids, [step]: grid } })}
          >
            {grid === "none" ? "No grid" : capital(GRID_NAMES[grid])}
          </Touch>
        ))}
      </div>
      <div className="row" style={{ marginTop: 5, gap: 5 }}>
        <Touch flex="1" px="4px" fontSize="0.8125rem" onClick={() => addStill(session, "level")}>
          Add level guide
        </Touch>
        <Touch flex="1" px="4px" fontSize="0.8125rem" onClick={() => addStill(session, "upright")}>
          Add vertical guide
        </Touch>
      </div>
      {still.length > 0 && (
        <ul style={{ margin: 0, padding: 0, marginTop: 8, borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
          {still.map((line, at) => (
            <li className="row" key={line.id} style={{ listStyleType: "none", gap: 8, alignItems: "center", borderBottom: "1px solid", borderColor: "var(--chakra-colors-rule)", paddingBlock: 3 }}>
              <div style={{ fontWeight: 700, width: 16 }}>
                {stillName(at)}
              </div>
              <div style={{ flex: "1", fontSize: "0.8125rem", lineHeight: "1.25" }}>
                {(under[line.id] ?? "").split(" · ").map((part, row) => (
                  <div key={part} style={{ color: row ? "var(--chakra-colors-second)" : undefined }}>
                    {part}
                  </div>
                ))}
              </div>
              <Touch px="8px" fontSize="0.8125rem" aria-label={`Remove guide ${stillName(at)}`} onClick={() => removeStill(session, line.id)}>
                Remove
              </Touch>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
