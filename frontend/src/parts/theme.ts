import { createSystem, defaultBaseConfig, defineConfig } from "@chakra-ui/react";

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

/** What is drawn on the picture is drawn twice, so that it shows on dark and on light: in ink, and light within it. */
export const INK = "#22252a";
export const LIGHT = "#ffffff";
export const DARK = "#000000";
/** The index of every scale. */
export const INDEX = "#e3b100";

/** For words of less weight; never on the surround. */
export const SECOND_INK = "#5d6168";

const solid = (value: string) => ({ value });

/** A window as narrow as that of a telephone. */
const SMALL = "@media (max-width: 30em)";
const FORCED = "@media (forced-colors: active)";

export const system = createSystem(
  defaultBaseConfig,
  defineConfig({
    preflight: true,
    globalCss: {
      "html, body, #root": { height: "100%", margin: 0 },
      html: { bg: "paper" },
      body: { bg: "paper", color: "ink", fontFamily: "body", fontSize: "0.875rem", lineHeight: 1.35 },
      "*:focus-visible": { outline: "3px solid", outlineColor: "ink", outlineOffset: "2px" },
      // What moves with the hand is made of plain elements, so that React has little to do for it.
      h2: { fontWeight: 700 },
      ".row": { display: "flex" },
      ".told": { borderLeft: "4px solid", paddingLeft: "10px" },
      ".touch small": { fontSize: "0.75rem", fontWeight: 400, color: "second" },
      ".saved": { minHeight: "40px", minWidth: "40px", display: "inline-flex", alignItems: "center", justifyContent: "center", fontSize: "0.8125rem", textDecoration: "underline" },
      ".entry": { listStyleType: "none", borderBottom: "1px solid", borderColor: "rule" },
      ".entry[data-chosen=true], .entry[data-pointed=true], .entry-row:hover": { bg: "touch" },
      ".entry-row": { display: "block", width: "100%", textAlign: "left", px: "16px", py: "5px", cursor: "pointer" },
      ".entry-line": { display: "flex", justifyContent: "space-between", alignItems: "center", gap: "10px" },
      ".entry-name": { display: "flex", alignItems: "center", gap: "8px", fontWeight: 700 },
      ".entry-line small": { fontSize: "0.75rem", color: "second" },
      ".entry-words": { alignItems: "flex-start", fontSize: "0.8125rem", lineHeight: 1.25, color: "second" },
      ".entry-words [data-live=taken]": { flex: "none" },
      ".entry-words [data-live=verdict]": { textAlign: "right" },
      ".entry[data-bad] [data-live=verdict]": { color: "plumb", fontWeight: 700 },
      ".touch": {
        minHeight: "40px",
        px: "12px",
        bg: "touch",
        color: "ink",
        border: "1px solid",
        borderColor: "edge",
        borderRadius: "4px",
        fontSize: "0.875rem",
        fontWeight: 500,
        cursor: "pointer",
        whiteSpace: "nowrap",
        display: "inline-flex",
        alignItems: "center",
        justifyContent: "center",
        gap: "8px",
      },
      ".touch:hover": { borderColor: "ink" },
      ".touch:disabled": { color: "second", cursor: "default", bg: "paper", borderStyle: "dashed" },
      ".touch[aria-pressed=true], .way[aria-pressed=true]": { boxShadow: "inset 0 0 0 2px var(--chakra-colors-ink)", fontWeight: 700 },
      ".touch-filled[aria-pressed=true]": { bg: "ink", color: "touch" },
      ".choice": { minHeight: "40px", px: "6px", bg: "touch", border: "1px solid", borderColor: "edge", borderRadius: "4px", fontSize: "0.8125rem", cursor: "pointer" },
      ".heading": { display: "flex", justifyContent: "space-between", alignItems: "baseline", gap: "8px", marginTop: "18px", marginBottom: "6px" },
      ".heading-first": { marginTop: 0 },
      ".heading h2": { fontWeight: 700 },
      ".beside": { color: "second", fontSize: "0.8125rem", textAlign: "right" },
      ".aside": { marginTop: "6px", color: "second", fontSize: "0.8125rem" },
      ".figure-in-words": { fontFamily: "mono", whiteSpace: "nowrap" },
      ".columns": { display: "grid", gap: "6px" },
      ".columns > .touch": { px: "4px", fontSize: "0.8125rem" },
      ".way": {
        display: "grid",
        width: "100%",
        gridTemplateColumns: "1fr 48px 48px 80px",
        alignItems: "center",
        columnGap: "4px",
        minHeight: "40px",
        textAlign: "right",
        px: "4px",
        borderBottom: "1px solid",
        borderColor: "rule",
        cursor: "pointer",
        fontSize: "0.75rem",
        fontFamily: "mono",
      },
      ".way > span": { whiteSpace: "nowrap" },
      ".way > span:first-of-type": { whiteSpace: "normal", textAlign: "left", fontFamily: "body", fontSize: "0.8125rem", lineHeight: 1.2 },
      ".way:hover, .way[aria-pressed=true]": { bg: "touch" },
      ".way-heads": { minHeight: 0, fontFamily: "body", color: "second", cursor: "default" },
      ".way small": { display: "block", fontSize: "0.75rem", color: "doubt" },
      ".turn": { px: "4px", paddingTop: "6px", fontSize: "0.8125rem", fontWeight: 700 },
      ".step": { px: "8px", minHeight: "52px", alignSelf: "flex-start", minWidth: "64px", [SMALL]: { minWidth: 0, px: "2px", minHeight: "44px" }, textAlign: "center", cursor: "pointer", whiteSpace: "nowrap", borderRadius: "4px" },
      ".step-dot": { display: "block", width: "10px", height: "10px", margin: "3px auto", borderRadius: "50%", border: "2px solid", borderColor: "ink", bg: "touch" },
      ".step-name": { display: "inline-block", fontWeight: 700, borderBottom: "2px solid transparent" },
      ".step[aria-current=step] .step-dot": { width: "14px", height: "14px", margin: "1px auto", bg: "here" },
      ".step[aria-current=step] .step-name": { borderColor: "here" },
      ".step-rule": { flex: 1, height: "2px", bg: "rule", minWidth: "8px", alignSelf: "flex-start", marginTop: "7px" },
      ".heard": { position: "absolute", width: "1px", height: "1px", overflow: "hidden", clipPath: "inset(50%)", whiteSpace: "nowrap" },
      ".words": { flex: 1, minWidth: 0, width: "100%", height: "40px", px: "8px", bg: "touch", border: "1px solid", borderColor: "edge", borderRadius: "4px", fontSize: "0.8125rem" },
      ".words::placeholder": { color: "second" },
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
      ".vernier-row": { display: "flex", flexWrap: "wrap", gap: "3px", marginTop: "1px", alignItems: "stretch" },
      ".vernier-row input": { height: "42px", px: "4px" },
      ".vernier-row > svg": { bg: "touch", borderRadius: "3px", cursor: "ew-resize", touchAction: "none", flex: "none", boxShadow: "inset 0 0 0 1px var(--chakra-colors-edge)" },
      ".vernier .tick": { stroke: "second" },
      ".vernier .tick-word": { fontSize: "12px", fill: "second", [FORCED]: { fill: "CanvasText" } },
      ".vernier .mark": { stroke: "ink" },
      ".vernier .between": { stroke: "rule" },
      ".vernier .index": { fill: "here", stroke: "ink", [FORCED]: { fill: "Highlight", stroke: "CanvasText" } },
      ".figure": { fontFamily: "mono", fontWeight: 600, whiteSpace: "nowrap" },
      ".step-word": { display: "block", [SMALL]: { display: "none" }, fontSize: "0.75rem", color: "second", minHeight: "1rem", maxWidth: "150px", overflow: "hidden", textOverflow: "ellipsis" },
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
          touch: solid(LIGHT),
          edge: solid("#8a877f"),
          rule: solid("#d6d3cb"),
          /** Borders on the surround. */
          faint: solid("#4a4a4a"),
          ink: solid(INK),
          second: solid(SECOND_INK),
          here: solid(INDEX),
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
