import type { Photo } from "../api/client";

const SETTLED = ["level", "verticals straight", "square-on"];

type Look = "settled" | "sure" | "unsure" | "disagree" | "empty";

/** How a photo stands, as its vial shows it. */
function lookOf({ state, sure, aside }: Photo): Look {
  if (state === "lines disagree") return "disagree";
  if (state !== "not measured" && (SETTLED.includes(state) || state === "corrected by hand")) return "settled";
  if (state !== "not measured") return "unsure";
  if (aside || sure === null) return "empty";
  return sure === "sure" ? "sure" : "unsure";
}

const COLOURS = { settled: "good", sure: "ink", unsure: "doubt", disagree: "danger", empty: "second" } as const;

/** The words that go with a vial, which never stands alone. */
export function standWords(photo: Photo): string {
  if (photo.aside && photo.state === "not measured") return "left as taken";
  if (photo.proposal) return photo.proposal;
  return photo.state;
}

export const standColour = (photo: Photo) => `var(--chakra-colors-${COLOURS[lookOf(photo)]})`;

/** A small vial: its bubble in the middle, aside, hollow where it is not sure, two where lines disagree, none where nothing is known. */
export function Vial({ photo }: { photo: Photo }) {
  const look = lookOf(photo);
  return (
    <svg className="vial" width="30" height="12" viewBox="0 0 30 12" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="1.4">
      <rect x="0.7" y="0.7" width="28.6" height="10.6" rx="5.3" fill="var(--touch)" />
      <path d="M10.5 1v10M19.5 1v10" strokeWidth="1" />
      {look === "settled" && <ellipse cx="15" cy="6" rx="3.4" ry="2.9" fill="currentColor" />}
      {look === "sure" && <ellipse cx="22" cy="6" rx="3.4" ry="2.9" fill="currentColor" />}
      {look === "unsure" && <ellipse cx="22" cy="6" rx="3" ry="2.5" />}
      {look === "disagree" && <path d="M6 3.4a2.6 2.6 0 1 1 0 5.2 2.6 2.6 0 1 1 0-5.2M24 3.4a2.6 2.6 0 1 1 0 5.2 2.6 2.6 0 1 1 0-5.2" fill="currentColor" />}
    </svg>
  );
}
