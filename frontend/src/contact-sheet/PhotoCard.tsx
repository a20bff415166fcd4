import { memo, useState } from "react";

import type { Photo } from "../api/client";
import { goTo } from "../parts/path";
import { Touch } from "../parts/Touch";
import { standColour, standWords, Vial } from "./Vial";

/** What can be done to a photo of the sheet. */
export interface CardActions {
  rename: (photo: Photo, title: string) => void;
  recover: (photo: Photo) => void;
  choose: (photo: Photo, how: { more: boolean; range: boolean }) => void;
  /** Its small picture could not be shown: what its card tells may have changed. */
  unseen: () => void;
}

interface Props {
  photo: Photo;
  actions: CardActions;
  chosen: boolean;
  /** Whether the keyboard is here: of all cards one is reached by Tab. */
  here: boolean;
}

/** A small picture as it is framed now, its title, and how it stands in words. A press chooses it, a second one opens it. */
export const PhotoCard = memo(function PhotoCard({ photo, actions, chosen, here }: Props) {
  const address = `/photos/${photo.id}`;
  const [title, setTitle] = useState<string | null>(null);
  const keep = () => {
    const wanted = title?.trim();
    if (wanted && wanted !== photo.title) actions.rename(photo, wanted);
    setTitle(null);
  };
  const open = () => photo.revision !== null && goTo(address);
  return (
    <div
      role="listitem"
      data-photo={photo.id}
      data-chosen={chosen || undefined}
      className="card"
      onClick={(event) => {
        if ((event.target as Element).closest("button, input")) return;
        event.preventDefault();
        // A key, or what reads the page aloud, opens it at once.
        if (event.detail === 0) open();
        else actions.choose(photo, { more: event.ctrlKey || event.metaKey, range: event.shiftKey });
      }}
      onDoubleClick={(event) => {
        if (!(event.target as Element).closest("button, input")) open();
      }}
      onKeyDown={(event) => {
        if (event.key !== "F2") return;
        event.preventDefault();
        setTitle(photo.title);
      }}
    >
      <a className="card-picture" href={address} aria-label={`Open ${photo.title}`} tabIndex={here ? 0 : -1} draggable={false} data-open>
        {photo.revision === null ? (
          <span>No state can be read</span>
        ) : (
          <img
            src={`/api/photos/${photo.id}/thumbnail/${photo.revision}.jpg`}
            alt=""
            draggable={false}
            loading="lazy"
            decoding="async"
            onError={actions.unseen}
          />
        )}
      </a>
      <input
        type="checkbox"
        className="card-choose"
        aria-label={`Choose ${photo.title}`}
        checked={chosen}
        tabIndex={-1}
        onChange={() => actions.choose(photo, { more: true, range: false })}
      />
      <div className="card-words">
        {title === null ? (
          <h2 className="cut">
            <button type="button" className="title-button cut" tabIndex={-1} aria-label={`Edit title of ${photo.title}`} title={photo.title} onClick={() => setTitle(photo.title)}>
              {photo.title}
            </button>
          </h2>
        ) : (
          <input
            className="words card-title"
            aria-label="Title"
            autoFocus
            maxLength={200}
            value={title}
            onFocus={(event) => event.target.select()}
            onChange={(event) => setTitle(event.target.value)}
            onBlur={keep}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === "Enter") keep();
              if (event.key === "Escape") setTitle(null);
            }}
          />
        )}
        <div className="card-state" style={{ color: standColour(photo) }} title={told(photo)}>
          <Vial photo={photo} />
          <span className="cut">{standWords(photo)}</span>
        </div>
        <div className="card-more cut">{[photo.ratio, ...photo.versions].join(" · ")}</div>
        {!photo.readable && photo.revision !== null && (
          <Touch className="card-act" aria-label={`Go back to the last readable state of ${photo.title}`} onClick={() => actions.recover(photo)}>
            Go back to the last readable state
          </Touch>
        )}
      </div>
    </div>
  );
});

/** All that is known of a photo, for whoever points at it. */
const told = (photo: Photo) =>
  [standWords(photo), photo.ratio, photo.camera, photo.lens, photo.versions.length ? `versions: ${photo.versions.join(", ")}` : null, photo.exported ? "exported" : "not exported"]
    .filter(Boolean)
    .join(" · ");
