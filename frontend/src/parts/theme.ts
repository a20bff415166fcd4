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

export const system = createSystem(
  defaultBaseConfig,
  defineConfig({
    preflight: true,
    theme: {
      tokens: {
        colors: {
          surround: solid("#a3a3a3"),
          paper: solid("#f5f4f1"),
          touch: solid(LIGHT),
          edge: solid("#807d75"),
          rule: solid("#d6d3cb"),
          /** Borders on the surround. */
          faint: solid("#4a4a4a"),
          ink: solid(INK),
          second: solid(SECOND_INK),
          here: solid(INDEX),
          wash: solid("#fbf1cf"),
          well: solid("#eae8e2"),
          danger: solid("#9c2b12"),
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
