import js from "@eslint/js";
import reactHooks from "eslint-plugin-react-hooks";
import { defineConfig, globalIgnores } from "eslint/config";
import tseslint from "typescript-eslint";

/** What each part of the page may build on; the shell, which composes them, on all. */
const MAY_USE = {
  parts: [],
  api: [],
  session: ["api"],
  stage: ["session", "api", "parts"],
  "contact-sheet": ["api", "parts"],
  review: ["api", "parts"],
  ...Object.fromEntries(["steps", "log", "compare"].map((part) => [part, ["stage", "session", "api", "parts"]])),
};
const PARTS = [...Object.keys(MAY_USE), "shell"];
const STEPS = ["lens", "lines", "frame", "edges", "export"];

const forbidden = (names, message) => ({ regex: `^(\\.\\./)+(${names.join("|")})(/|$)`, message });

/** Arrows run one way: a part imports from those it may use and from itself. */
const arrows = Object.entries(MAY_USE).map(([part, may]) => {
  const others = PARTS.filter((other) => other !== part && !may.includes(other));
  return {
    files: [`src/${part}/**`],
    rules: { "no-restricted-imports": ["error", { patterns: [forbidden(others, `${part} may not build on this part of the page.`)] }] },
  };
});

const steps = STEPS.map((step) => ({
  files: [`src/steps/${step}/**`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: [
          forbidden(["shell", "log", "compare", "contact-sheet", "review"], "Steps may not build on this part of the page."),
          forbidden(STEPS.filter((other) => other !== step), "One step does not build on another; what they share lies beside them."),
        ],
      },
    ],
  },
}));

export default defineConfig([
  globalIgnores(["dist", "eslint.config.js", "src/api/schema.ts"]),
  {
    files: ["**/*.{ts,tsx}"],
    extends: [
      js.configs.recommended,
      tseslint.configs.recommendedTypeChecked,
      reactHooks.configs.flat.recommended,
    ],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { varsIgnorePattern: "^_", argsIgnorePattern: "^_" }],
      "@typescript-eslint/no-non-null-assertion": "error",
    },
  },
  { files: ["**/*.test.{ts,tsx}"], rules: { "@typescript-eslint/no-non-null-assertion": "off" } },
  ...arrows,
  ...steps,
  {
    // What a session is must not depend on how it is drawn.
    files: ["src/session/**"],
    ignores: ["src/session/useSession.ts"],
    rules: { "no-restricted-imports": ["error", { paths: ["react"], patterns: [forbidden(PARTS.filter((part) => part !== "api" && part !== "session"), "The session knows the server only.")] }] },
  },
]);
