import type { Recipe } from "../../api/client";
import { useDesk, useSession } from "../../session/useSession";
import { Touch } from "../../parts/Touch";
import { Aside, Columns, Heading } from "../../parts/Words";
import { PencilPanel } from "./PencilPanel";

const KINDS = ["from here", "not from here"] as const;
const LABELS = { "from here": "Copy only from here", "not from here": "Never copy from here" } as const;

/** Where new pixels may, or must not, come from. */
export function DonorsPage({ recipe }: { recipe: Recipe }) {
  const session = useSession();
  const drawing = useDesk((state) => state.drawing);
  const area = useDesk((state) => state.area);
  const { donors } = recipe.edges;
  return (
    <>
      <Heading first beside={donors.length ? `${donors.length} marked` : "anywhere in the picture"}>
        Where new pixels may be copied from
      </Heading>
      <Columns gridTemplateColumns="repeat(2, 1fr)" role="group" aria-label="What the next area is for">
        {KINDS.map((kind) => (
          <Touch key={kind} aria-pressed={drawing === kind} onClick={() => session.desk.setState({ drawing: drawing === kind ? null : kind })}>
            {LABELS[kind]}
          </Touch>
        ))}
      </Columns>
      <div style={{ marginTop: 8 }}>
        <PencilPanel recipe={recipe} feathered={false} />
      </div>
      <Aside>
        {drawing
          ? "Now brush or outline an area on the picture."
          : "Choose one of the two, then brush or outline an area on the picture."}
      </Aside>
      {donors.map(({ id, kind }) => (
        <div className="row" key={id} style={{ marginTop: 8, alignItems: "center", justifyContent: "space-between", gap: 8, borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)", paddingTop: 8, fontWeight: area === id ? 700 : 400 }}>
          <span>
            {LABELS[kind]} {id.slice(1)}
          </span>
          <Touch fontSize="0.8125rem" aria-label={`Remove area ${id.slice(1)}`} onClick={() => void session.do({ do: "remove area", area: id })}>
            Remove
          </Touch>
        </div>
      ))}
    </>
  );
}
