import { type Still, useBench } from "../../session/benchStore";

/** A still line by its letter: A, B, C… */
export const stillName = (at: number) => String.fromCharCode(65 + (at % 26));

/** Lay one more in the middle of the stage, a little beside the last. */
export function addStill(way: Still["way"]) {
  useBench.setState(({ still }) => {
    const id = Math.max(0, ...still.map((one) => one.id)) + 1;
    const at = 0.5 + (still.filter((one) => one.way === way).length % 5) * 0.06;
    return { still: [...still, { id, way, at }] };
  });
}

export const removeStill = (id: number) => useBench.setState(({ still }) => ({ still: still.filter((one) => one.id !== id) }));

export function moveStill(id: number, at: number) {
  const clamped = Math.min(0.995, Math.max(0.005, at));
  useBench.setState(({ still }) => ({ still: still.map((one) => (one.id === id ? { ...one, at: clamped } : one)) }));
}
