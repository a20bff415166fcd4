import { Box, chakra, VisuallyHidden } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { memo } from "react";

import { api, type CostRow, type Recipe } from "../../api/client";
import { baseNow } from "../../session/session";
import { useKnown, useSession } from "../../session/useSession";
import { previewed } from "../../session/preview";
import { withRect } from "../../session/recipeEdits";
import { percent } from "../../session/shares";

const Row = chakra("button", {
  base: {
    display: "grid",
    w: "100%",
    gridTemplateColumns: "1fr 48px 48px 80px",
    alignItems: "center",
    columnGap: "4px",
    minH: "40px",
    textAlign: "right",
    px: "4px",
    borderBottom: "1px solid",
    borderColor: "rule",
    cursor: "pointer",
    fontSize: "12px",
    fontFamily: "mono",
    "& > span": { whiteSpace: "nowrap" },
    "& > span:first-of-type": { whiteSpace: "normal", textAlign: "left", fontFamily: "body", fontSize: "13px", lineHeight: 1.2 },
    _hover: { bg: "touch" },
    "&[aria-pressed=true]": { bg: "touch", boxShadow: "inset 0 0 0 2px #22252a", fontWeight: 700 },
  },
});

/** What trimming and filling cost, for each turn that the lines determine. Touching a way takes it. */
export const CostTable = memo(function CostTable() {
  // A way that is only pointed at changes nothing here.
  const recipe = useKnown(baseNow);
  return recipe && <Table recipe={recipe} />;
});

function Table({ recipe }: { recipe: Recipe }) {
  // Where the frame lies now does not change what the ways cost.
  const asked = withRect(recipe, null);
  const { data, isPlaceholderData, error } = useQuery({
    queryKey: ["costs", JSON.stringify(asked)],
    queryFn: () => api.costs(asked),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
  if (error) return <Box fontSize="13px">{error.message}</Box>;
  if (!data) return <Box color="second">Working it out …</Box>;
  const turns = [...new Set(data.map(({ turn }) => turn))];
  const now = JSON.stringify(recipe);
  return (
    <Box data-costs style={{ opacity: isPlaceholderData ? 0.6 : 1 }}>
      <Box
        aria-hidden="true"
        display="grid"
        gridTemplateColumns="1fr 48px 48px 80px"
        columnGap="4px"
        px="4px"
        fontSize="12px"
        color="second"
        textAlign="right"
        borderBottom="1px solid"
        borderColor="rule"
      >
        <Box as="span" textAlign="left">
          way
        </Box>
        <span>kept</span>
        <span>empty</span>
        <span>pixels</span>
      </Box>
      {turns.map((turn) => (
        <Box key={turn} role="group" aria-label={turn}>
          <Box px="4px" pt="6px" fontSize="13px" fontWeight={700}>
            {turn}
          </Box>
          {data
            .filter((row) => row.turn === turn)
            .map((row) => (
              <Way key={row.edges} row={row} taken={JSON.stringify(row.recipe) === now} disabled={isPlaceholderData} />
            ))}
        </Box>
      ))}
    </Box>
  );
}

function Way({ row, taken, disabled }: { row: CostRow; taken: boolean; disabled: boolean }) {
  const session = useSession();
  const lost = row.subject === false;
  return (
    <Row
      type="button"
      disabled={disabled}
      aria-pressed={taken}
      {...previewed(session, row.recipe)}
      onClick={() => !taken && void session.keep(() => row.recipe, `${row.turn}: ${row.label}`)}
    >
      <span>
        {row.label}
        {lost && (
          <Box as="span" display="block" fontSize="12px" color="doubt">
            cuts the subject
          </Box>
        )}
      </span>
      <span>
        {percent(row.kept)}
        <VisuallyHidden> kept, </VisuallyHidden>
      </span>
      <span>
        {percent(row.empty)}
        <VisuallyHidden> empty, </VisuallyHidden>
      </span>
      <span>
        {row.width}×{row.height}
        <VisuallyHidden> pixels</VisuallyHidden>
      </span>
    </Row>
  );
}
