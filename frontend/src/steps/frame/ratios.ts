/** A ratio upright instead of lying, or the other way round, as the recipe writes it. */
export const turned = (ratio: string): string => (ratio.includes(":") ? ratio.split(":").reverse().join(":") : ratio);

/** A ratio as people read it. */
export const ratioWords = (ratio: string): string => ratio.replace("sqrt2", "√2");
