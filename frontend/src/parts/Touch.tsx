import { chakra } from "@chakra-ui/react";

/** A thing that can be touched: white, bordered, at least 40 px high. `aria-pressed` marks a chosen one. */
export const Touch = chakra("button", {
  base: {
    minH: "40px",
    px: "12px",
    bg: "touch",
    color: "ink",
    border: "1px solid",
    borderColor: "edge",
    borderRadius: "4px",
    fontSize: "14px",
    fontWeight: 500,
    cursor: "pointer",
    whiteSpace: "nowrap",
    display: "inline-flex",
    alignItems: "center",
    justifyContent: "center",
    gap: "8px",
    _hover: { borderColor: "ink" },
    _disabled: { color: "second", cursor: "default", bg: "paper", borderStyle: "dashed" },
    "&[aria-pressed=true]": { boxShadow: "inset 0 0 0 2px #22252a", fontWeight: 700 },
  },
});

/** A choice among words, as high as a thing that can be touched. */
export const Choice = chakra("select", {
  base: { minH: "40px", px: "6px", bg: "touch", border: "1px solid", borderColor: "edge", borderRadius: "4px", fontSize: "13px", cursor: "pointer" },
});
