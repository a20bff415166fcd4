// @vitest-environment node
import { readdirSync, readFileSync } from "node:fs";
import ts from "typescript";
import { describe, expect, it } from "vitest";

/** The voice (docs/glossary.md) as far as a machine can tell: the rules of the whole program, and one of the page's own. */
const RULES: Record<string, RegExp> = {
  ...Object.fromEntries(
    Object.entries(JSON.parse(readFileSync("../tests/docs/voice.json", "utf8")) as Record<string, string>).map(([rule, pattern]) => [rule, new RegExp(pattern, "i")]),
  ),
  "what angles are called": /\b(?:pitch|yaw)\b/i,
};

/** Attributes that are read or heard. */
const HEARD = new Set(["aria-label", "aria-description", "aria-valuetext", "title", "placeholder", "label", "alt", "words", "named", "unit"]);

const against = (words: string) => Object.keys(RULES).filter((rule) => RULES[rule]?.test(words));

const template = (node: ts.TemplateExpression) => node.head.text + node.templateSpans.map((span) => `{}${span.literal.text}`).join("");

/** What a file shows: its texts, what its controls are called, and what is put together from words of three or more. */
function shown(path: string): string[] {
  const found: string[] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isJsxText(node)) found.push(node.text.replaceAll(/\s+/g, " ").trim());
    else if (ts.isStringLiteralLike(node) || ts.isTemplateExpression(node)) {
      const words = ts.isTemplateExpression(node) ? template(node) : node.text;
      const attribute = ts.isJsxAttribute(node.parent) ? node.parent.name.getText() : null;
      const imported = ts.isImportDeclaration(node.parent) || ts.isExportDeclaration(node.parent);
      if (!imported && (attribute ? HEARD.has(attribute) : words.split(/\s+/).length >= 3 && !/[;{}=]|^[\d.\s{}]+$/.test(words.replaceAll("{}", "")))) found.push(words);
    }
    ts.forEachChild(node, visit);
  };
  visit(ts.createSourceFile(path, readFileSync(path, "utf8"), ts.ScriptTarget.Latest, true, path.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS));
  return found.filter((words) => /[a-z]{2}/i.test(words));
}

describe("everything that the page says", () => {
  const files = readdirSync("src", { recursive: true, encoding: "utf8" })
    .filter((path) => /\.tsx?$/.test(path) && !/\.test\.|\.d\.ts|schema\.ts/.test(path))
    .map((path) => `src/${path}`);
  const said = files.flatMap((path) => shown(path).map((words) => ({ path, words })));

  it("is found", () => {
    expect(said.length).toBeGreaterThan(400);
    expect(said.some(({ words }) => words.startsWith("Draw a line: how far"))).toBe(true);
  });

  it("keeps to the voice", () => {
    expect(said.flatMap(({ path, words }) => against(words).map((rule) => `${path}: ${rule}: ${words}`))).toEqual([]);
  });

  it("ends what is a sentence with its stop", () => {
    const open = said.filter(({ words }) => /^[A-Z][a-z]+ .*[a-z]\. [A-Z]/.test(words) && !/[.?…:}]$/.test(words));
    expect(open).toEqual([]);
  });
});

describe("the rules", () => {
  it("find what they are for", () => {
    expect(against("Lay a line")).toEqual(["draw, not lay"]);
    expect(against("89 % is kept")).toEqual(["per cent closed up"]);
  });
});
