import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

/** The colour of each kind of reference: on the panels (paper) and on the picture. */
export const KIND_COLOURS = {
  level: { paper: "#0c6f9c", picture: "#5fd3ff" },
  plumb: { paper: "#b2451c", picture: "#ff8a4d" },
  receding: { paper: "#7447b0", picture: "#cda6ff" },
  straight: { paper: "#806000", picture: "#ffd84a" },
  rectangle: { paper: "#2d6a45", picture: "#7df0b2" },
  witness: { paper: "#3a3d42", picture: "#ffffff" },
} as const;

export const SURROUNDS = { lighter: "#c4c4c4", neutral: "#a3a3a3", darker: "#6b6b6b" } as const;

/** For words of less weight; never on the surround. */
export const SECOND_INK = "#5d6168";

const solid = (value: string) => ({ value });

const FORCED = "@media (forced-colors: active)";

export const system = createSystem(
  defaultConfig,
  defineConfig({
    globalCss: {
      "html, body, #root": { height: "100%", margin: 0 },
      html: { bg: "paper" },
      body: { bg: "paper", color: "ink", fontFamily: "body", fontSize: "14px", lineHeight: 1.35 },
      "*:focus-visible": { outline: "3px solid", outlineColor: "ink", outlineOffset: "2px" },
      // What moves with the hand is made of plain elements, so that React has little to do for it.
      ".heard": { position: "absolute", width: "1px", height: "1px", overflow: "hidden", clipPath: "inset(50%)", whiteSpace: "nowrap" },
      ".field": { display: "flex", flexWrap: "wrap", alignItems: "center", justifyContent: "space-between", columnGap: "8px", marginTop: "5px" },
      ".field-alone": { display: "inline-flex", marginTop: 0, position: "relative" },
      ".field-box": { display: "flex", alignItems: "center", gap: "6px" },
      ".field input": {
        height: "40px",
        px: "6px",
        bg: "touch",
        border: "1px solid",
        borderColor: "edge",
        borderRadius: "4px",
        fontFamily: "mono",
        fontSize: "0.8125rem",
        textAlign: "right",
      },
      ".field input[aria-invalid=true]": { borderColor: "plumb", borderWidth: "2px" },
      ".field input:disabled": { color: "second", borderStyle: "dashed" },
      ".field-unit": { minWidth: "1.5rem", color: "second", fontSize: "0.8125rem" },
      ".field-wrong": { flexBasis: "100%", color: "plumb", fontSize: "0.8125rem", textAlign: "right" },
      ".vernier": { marginTop: "4px" },
      ".vernier-head": { display: "flex", gap: "6px", alignItems: "baseline", fontSize: "0.8125rem" },
      ".vernier-head span": { color: "second", lineHeight: 1.25 },
      ".vernier-row": { display: "flex", flexWrap: "wrap", gap: "4px", marginTop: "1px", alignItems: "stretch" },
      ".vernier-row input": { height: "42px", px: "4px" },
      ".vernier-row > svg": { bg: "touch", borderRadius: "3px", cursor: "ew-resize", touchAction: "none", flex: "none", boxShadow: "inset 0 0 0 1px var(--chakra-colors-edge)" },
      ".vernier .tick": { stroke: "second" },
      ".vernier .tick-word": { fill: "second", [FORCED]: { fill: "CanvasText" } },
      ".vernier .mark": { stroke: "ink" },
      ".vernier .between": { stroke: "rule" },
      ".vernier .index": { fill: "here", stroke: "ink", [FORCED]: { fill: "Highlight", stroke: "CanvasText" } },
      ".figure": { fontFamily: "mono", fontWeight: 600, whiteSpace: "nowrap" },
      ".step-word": { display: "block", fontSize: "0.75rem", color: "second", minHeight: "1rem", maxWidth: "150px", overflow: "hidden", textOverflow: "ellipsis" },
      ".mono": { fontFamily: "mono" },
      // Where colours are the system's, a chosen state shows by its border, and a scale by the system's ink.
      "[aria-pressed=true], [aria-current=step], [aria-current=true]": { [FORCED]: { outline: "2px solid Highlight", outlineOffset: "-2px" } },
      ".vernier .tick, .vernier .mark, .vernier .between": { [FORCED]: { stroke: "CanvasText" } },
      ".vernier-row svg": { [FORCED]: { border: "1px solid CanvasText" } },
    },
    theme: {
      tokens: {
        colors: {
          surround: solid("#a3a3a3"),
          paper: solid("#f5f4f1"),
          touch: solid("#ffffff"),
          edge: solid("#8a877f"),
          rule: solid("#d6d3cb"),
          /** Borders on the surround. */
          faint: solid("#4a4a4a"),
          ink: solid("#22252a"),
          second: solid(SECOND_INK),
          here: solid("#e3b100"),
          level: solid("#0c6f9c"),
          plumb: solid("#b2451c"),
          straight: solid("#806000"),
          good: solid("#2d6a45"),
          doubt: solid("#6b5300"),
        },
        fonts: {
          body: solid("'Atkinson Hyperlegible Next Variable', sans-serif"),
          heading: solid("'Atkinson Hyperlegible Next Variable', sans-serif"),
          mono: solid("'Atkinson Hyperlegible Mono Variable', monospace"),
        },
      },
    },
  }),
);
