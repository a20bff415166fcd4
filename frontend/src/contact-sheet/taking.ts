import { create } from "zustand";

import type { Counted, Reach } from "../api/client";
import { said } from "../parts/figures";

/** How far proposals are taken on many photos, and how sure they have to be. */
export const useTaking = create<{ reach: Reach; least: number }>(() => ({ reach: "suggested", least: 0.9 }));

/** What taking them would do, as the foot of the sheet says it. */
export function countedWords(chosen: number, { sure, eyes, waiting, others }: Counted): string {
  const parts = [
    eyes ? `${said(eyes)} to look at` : "",
    waiting ? `${said(waiting)} not looked at yet` : "",
    others ? `${said(others)} measured or left already` : "",
  ].filter(Boolean);
  return `Of the ${said(chosen)} chosen: ${said(sure)} sure${parts.length ? `, ${parts.join(", ")}` : ""}.`;
}
