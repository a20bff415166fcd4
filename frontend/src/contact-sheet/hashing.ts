import { api } from "../api/client";

/** Larger files are not read beforehand: that they are here already is told when they have arrived. */
const LARGEST = 300e6;

/** The hash of a file's content; null where it is too large, or cannot be read now. */
async function hashOf(file: File): Promise<string | null> {
  if (file.size > LARGEST) return null;
  try {
    const digest = await crypto.subtle.digest("SHA-256", await file.arrayBuffer());
    return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  } catch {
    return null;
  }
}

/** Whether a file's photo is on the contact sheet already, without sending it. */
export async function isHere(file: File): Promise<boolean> {
  const hash = await hashOf(file);
  if (hash === null) return false;
  try {
    return (await api.known([hash])).includes(hash);
  } catch {
    return false;
  }
}
