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

export const system = createSystem(
  defaultConfig,
  defineConfig({
    globalCss: {
      "html, body, #root": { height: "100%", margin: 0 },
      html: { bg: "paper" },
      body: { bg: "paper", color: "ink", fontFamily: "body", fontSize: "14px", lineHeight: 1.35 },
      "*:focus-visible": { outline: "3px solid #22252a", outlineOffset: "2px" },
    },
    theme: {
      tokens: {
        colors: {
          surround: solid("#a3a3a3"),
          paper: solid("#f5f4f1"),
          touch: solid("#ffffff"),
          edge: solid("#8a877f"),
          rule: solid("#d6d3cb"),
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
