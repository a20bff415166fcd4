import type { CSSProperties } from "react";

const NAMES = {
  px: "paddingInline",
  py: "paddingBlock",
  m: "margin",
  mt: "marginTop",
  mb: "marginBottom",
  w: "width",
  h: "height",
  minW: "minWidth",
  minH: "minHeight",
  maxW: "maxWidth",
  maxH: "maxHeight",
} as const;

const SAME = [
  "alignItems",
  "alignSelf",
  "border",
  "borderColor",
  "borderLeftWidth",
  "borderRadius",
  "color",
  "flex",
  "flexDirection",
  "fontSize",
  "fontWeight",
  "gap",
  "gridColumn",
  "gridTemplateColumns",
  "justifyContent",
  "lineHeight",
  "textAlign",
  "whiteSpace",
] as const;

/** How a part may be set into its place: by the names that the page's other boxes use, too. */
export type Styles = Partial<Record<keyof typeof NAMES, string | number>> & Pick<CSSProperties, (typeof SAME)[number]>;

const COLOURED = new Set<string>(["color", "borderColor"]);
const token = (value: unknown) => (typeof value === "string" && /^[a-z]+$/.test(value) ? `var(--chakra-colors-${value}, ${value})` : value);

/** A part's styles as React takes them, and its other properties. */
export function styled<Props extends Styles & { style?: CSSProperties }>(props: Props): { style: CSSProperties; rest: Omit<Props, keyof Styles | "style"> } {
  const { style: given, ...rest } = props as Record<string, unknown> & { style?: CSSProperties };
  const style: Record<string, unknown> = {};
  for (const [name, full] of [...Object.entries(NAMES), ...SAME.map((one) => [one, one] as const)]) {
    if (rest[name] === undefined) continue;
    style[full] = COLOURED.has(name) ? token(rest[name]) : rest[name];
    delete rest[name];
  }
  return { style: { ...style, ...given }, rest: rest as Omit<Props, keyof Styles | "style"> };
}
