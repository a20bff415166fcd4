import { keepPending, useBench } from "./benchStore";

/** Before and now, side by side, until something else is chosen. What is still on its way is kept first. */
export function startComparing() {
  void keepPending();
  useBench.setState({ comparison: { way: "side by side", left: "before", right: "now", flipped: false } });
}

export const stopComparing = () => useBench.setState({ comparison: null });

export function flip() {
  useBench.setState(({ comparison }) => ({ comparison: comparison && { ...comparison, flipped: !comparison.flipped } }));
}
