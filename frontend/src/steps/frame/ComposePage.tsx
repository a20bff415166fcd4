import { memo } from "react";

import type { Recipe } from "../../api/client";
import { FAMILIES, type Family, type Seen } from "../../session/model";
import { usePreferences } from "../../session/preferences";
import { useDesk, useSession } from "../../session/useSession";
import { pair, toPhoto } from "../../session/mesh";
import { wallsOf } from "../../session/walls";
import { NumberField } from "../../parts/NumberField";
import { Slide } from "../../parts/Slide";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Heading } from "../../parts/Words";
import { PlaceBoard } from "./PlaceBoard";

const LABELS: Record<Family, string> = {
  thirds: "Thirds",
  fifths: "Fifths",
  golden: "Golden sections",
  centre: "Centre lines",
  diagonals: "Diagonals",
  spiral: "Golden spiral",
  "between walls": "Middle of two verticals",
  margins: "Subject margins",
};

interface Props {
  recipe: Recipe;
  read: Seen;
}

/** The subject, the lines in the frame, and what is placed on them. */
export const ComposePage = memo(function ComposePage({ recipe, read }: Props) {
  const families = usePreferences((state) => state.families);
  const spiral = usePreferences((state) => state.spiral);
  const veil = usePreferences((state) => state.veil);
  const chosen = useDesk((state) => state.walls);
  const walls = wallsOf(recipe, chosen);
  const toggle = (family: Family) =>
    usePreferences.setState({ families: families.includes(family) ? families.filter((one) => one !== family) : [...families, family] });
  const missing: Partial<Record<Family, string>> = {
    ...(!walls && { "between walls": "Needs two vertical lines (step Lines)" }),
    ...(!recipe.frame.subject && { margins: "Mark the subject first" }),
  };
  return (
    <>
      <Subject recipe={recipe} read={read} />
      <Heading beside="any number">Composition overlay</Heading>
      <Columns gridTemplateColumns="repeat(4, 1fr)" role="group" aria-label="Composition overlay">
        {FAMILIES.map((family) => (
          <Touch
            key={family}
            px="2px"
            whiteSpace="normal"
            lineHeight={1.15}
            title={missing[family]}
            disabled={missing[family] !== undefined}
            aria-pressed={families.includes(family)}
            onClick={() => toggle(family)}
          >
            {LABELS[family]}
          </Touch>
        ))}
        {families.includes("spiral") && (
          <Touch onClick={() => usePreferences.setState({ spiral: (spiral + 1) % 4 })}>Spiral: next corner</Touch>
        )}
      </Columns>
      <Slide inline label="Darken outside" words={`${Math.round(veil * 100)}%`} value={veil} onLetGo={(veil) => usePreferences.setState({ veil })} />
      <PlaceBoard recipe={recipe} />
    </>
  );
});

/** Marking what matters most: a point, or a box. */
function Subject({ recipe, read }: Props) {
  const session = useSession();
  const marking = useDesk((state) => state.marking);
  const { subject } = recipe.frame;
  const [x, y, width = 0, height = 0] = subject ?? [0, 0];
  const { photo } = recipe;
  const resize = (wide: number, high: number) => {
    const [cx, cy] = [x + width / 2, y + height / 2];
    void session.do({ do: "subject", mark: [[cx - wide / 2, cy - high / 2], [cx + wide / 2, cy + high / 2]] });
  };
  const markMiddle = () => {
    const { frame, mesh } = read;
    const middle = toPhoto(mesh, [frame.x + frame.width / 2, frame.y + frame.height / 2]);
    void session.do({ do: "subject", mark: [pair(middle)] });
  };
  return (
    <>
      <Heading first beside={read.frame.subject_inside === false ? "partly outside the frame" : subject ? "inside the frame" : "not marked"}>
        Subject
      </Heading>
      <Columns gridTemplateColumns={subject ? "repeat(2, 1fr)" : "1fr"}>
        <Touch
          aria-pressed={marking}
          onClick={() => session.desk.setState({ marking: !marking, shown: "corrected" })}
          onKeyDown={(event) => event.key === "Escape" && session.desk.setState({ marking: false })}
        >
          {subject ? "Mark again" : "Mark the subject"}
        </Touch>
        {subject ? (
          <Touch onClick={() => void session.do({ do: "subject", mark: null })}>Remove the mark</Touch>
        ) : (
          <Touch onClick={markMiddle}>Use the middle of the frame</Touch>
        )}
      </Columns>
      {marking && <Aside role="status">Click the middle of the subject, or drag a box around it. Esc cancels.</Aside>}
      {subject && (
        <div style={{ marginTop: 6 }}>
          <NumberField label="Width of the mark" unit="px" least={0} most={photo.width} value={width} onAccept={(to) => resize(to, height || to)} />
          <NumberField label="Height of the mark" unit="px" least={0} most={photo.height} value={height} onAccept={(to) => resize(width || to, to)} />
        </div>
      )}
    </>
  );
}
