/** A count as it stands among words. */
export const said = (count: number) => count.toLocaleString("en-GB");

/** So many things, by the words for one and for more. */
export const counted = (count: number, one: string, more: string) => (count === 1 ? `1 ${one}` : `${said(count)} ${more}`);

export const photosWords = (count: number) => counted(count, "photo", "photos");

/** A time in the unit that suits it. */
export const timeWords = (seconds: number) =>
  seconds < 60 ? `${Math.round(seconds)} s` : seconds < 3600 ? `${Math.round(seconds / 60)} min` : seconds < 172_800 ? `${Math.round(seconds / 3600)} h` : `${Math.round(seconds / 86_400)} days`;

/** Room on a disk in the unit that suits it. */
export const bytesWords = (bytes: number) =>
  bytes < 1e6 ? `${Math.ceil(bytes / 1e3)} kB` : bytes < 1e9 ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB` : bytes < 1e12 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e12).toFixed(1)} TB`;
