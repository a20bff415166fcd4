import { type ComponentType, useEffect, useState } from "react";

/**
 * A part of the page that is loaded when it is first shown. Unlike React's own way it appears in the moment it has come;
 * that one waits a third of a second, so that many parts do not flicker one after the other.
 */
export function later<Props extends object>(load: () => Promise<ComponentType<Props>>) {
  let found: ComponentType<Props> | null = null;
  const fetch = () => load().then((part) => (found = part));
  function Later(props: Props) {
    const [Part, setPart] = useState(() => found);
    useEffect(() => {
      if (found) return;
      fetch().then(
        (part) => setPart(() => part),
        (error: unknown) =>
          // What cannot be loaded has failed where it would be shown.
          setPart(() => {
            throw error;
          }),
      );
    }, []);
    return Part && <Part {...props} />;
  }
  /** Load it ahead of being shown. */
  Later.fetch = fetch;
  return Later;
}
