/** A share this small is rounding, not an empty corner. */
const NOTICED = 0.0005;

export const noticed = (share: number): boolean => share >= NOTICED;

/** A share in tenths of a per cent, whole ones without a decimal. */
export const percent = (share: number): string => `${noticed(share) ? (share * 100).toFixed(1).replace(/\.0$/, "") : "0"}%`;
