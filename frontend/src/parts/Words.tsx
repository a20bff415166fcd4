import type { ComponentProps, ReactNode } from "react";

import { styled, type Styles } from "./styled";

type Part<Tag extends "div" | "span"> = Omit<ComponentProps<Tag>, keyof Styles> & Styles;

/** A heading in the field book, with a word beside it. */
export function Heading({ children, beside, first }: { children: ReactNode; beside?: ReactNode; first?: boolean }) {
  return (
    <div className={first ? "heading heading-first" : "heading"}>
      <h2>{children}</h2>
      {beside !== undefined && <div className="beside">{beside}</div>}
    </div>
  );
}

/** A sentence of less weight under what it speaks of. */
export function Aside(props: Part<"div">) {
  const { style, rest } = styled(props);
  return <div className="aside" style={style} {...rest} />;
}

/** A figure in the middle of words. */
export function Figure(props: Part<"span">) {
  const { style, rest } = styled(props);
  return <span className="figure-in-words" style={style} {...rest} />;
}

/** Things that can be touched, side by side in equal columns. */
export function Columns(props: Part<"div">) {
  const { style, rest } = styled(props);
  return <div className="columns" style={style} {...rest} />;
}
