import type { ComponentProps } from "react";

import { styled, type Styles } from "./styled";

type Button = Omit<ComponentProps<"button">, keyof Styles> & Styles;

/** A thing that can be touched: white, bordered, at least 40 px high. `aria-pressed` marks a chosen one. */
export function Touch({ className, type = "button", ...props }: Button) {
  const { style, rest } = styled(props);
  return <button className={className ? `touch ${className}` : "touch"} type={type} style={style} {...rest} />;
}

/** A choice among words, as high as a thing that can be touched. */
export function Choice(props: Omit<ComponentProps<"select">, keyof Styles> & Styles) {
  const { style, rest } = styled(props);
  return <select className="choice" style={style} {...rest} />;
}
