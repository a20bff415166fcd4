/** A count as it stands among words. */
export const said = (count: number) => count.toLocaleString("en-GB");

/** So many things, by the words for one and for more. */
export const counted = (count: number, one: string, more: string) => (count === 1 ? `1 ${one}` : `${said(count)} ${more}`);

export const photosWords = (count: number) => counted(count, "photo", "photos");
