import { Box, Flex, chakra } from "@chakra-ui/react";
import { memo, useState } from "react";

import type { Photo } from "../api/client";
import { goTo } from "../parts/path";
import { Touch } from "../parts/Touch";
import { StateMark, stateColour } from "./StateMark";

/** What can be done to a photo of the sheet. */
export interface CardActions {
  rename: (photo: Photo, title: string) => void;
  remove: (photo: Photo) => void;
  recover: (photo: Photo) => void;
  /** Its small picture could not be shown: what its card tells may have changed. */
  unseen: () => void;
}

interface Props {
  photo: Photo;
  actions: CardActions;
}

/** A small picture as it is framed now, its title, and its state in words. */
export const PhotoCard = memo(function PhotoCard({ photo, actions }: Props) {
  const address = `/photos/${photo.id}`;
  const [title, setTitle] = useState<string | null>(null);
  const keep = () => {
    const wanted = title?.trim();
    if (wanted && wanted !== photo.title) actions.rename(photo, wanted);
    setTitle(null);
  };
  return (
    <Box
      role="listitem"
      minW={0}
      data-photo={photo.id}
      className="card"
      onClick={(event) => {
        // All of the card opens the photo; what has a meaning of its own keeps it.
        if (photo.revision !== null && !(event.target as Element).closest("a, button, input")) goTo(address);
      }}
      onKeyDown={(event) => {
        if ((event.key !== "Delete" && event.key !== "Backspace") || (event.target as Element).matches("input")) return;
        event.preventDefault();
        actions.remove(photo);
      }}
    >
      <Flex h="212px" align="flex-end" justify="center">
        {photo.revision === null ? (
          <Box bg="touch" p="12px" maxW="272px">
            No state of this photo can be read. Its original is kept.
          </Box>
        ) : <chakra.a
          href={address}
          display="block"
          bg="touch"
          p="6px"
          boxShadow="0 1px 2px rgba(0,0,0,.35)"
          aria-label={`Open ${photo.title}`}
          onClick={(event) => {
            if (event.ctrlKey || event.metaKey || event.shiftKey) return;
            event.preventDefault();
            goTo(address);
          }}
        >
          <img
            src={`/api/photos/${photo.id}/thumbnail/${photo.revision}.jpg`}
            alt=""
            loading="lazy"
            decoding="async"
            onError={actions.unseen}
            style={{ maxWidth: 272, maxHeight: 186, minWidth: 24, display: "block" }}
          />
        </chakra.a>}
      </Flex>
      <Box bg="paper" borderRadius="3px" mt="8px" px="10px" py="6px">
        {title === null ? (
          <Flex justify="space-between" align="baseline" gap="8px">
            <h2 className="cut">
              <button type="button" className="title-button cut" aria-label={`Edit title of ${photo.title}`} title="Press to change the title" onClick={() => setTitle(photo.title)}>
                {photo.title}
              </button>
            </h2>
            <Box fontFamily="mono" fontSize="0.75rem" color="second" whiteSpace="nowrap">
              {photo.ratio}
            </Box>
          </Flex>
        ) : (
          <input
            className="words"
            aria-label="Title"
            autoFocus
            maxLength={200}
            value={title}
            onChange={(event) => setTitle(event.target.value)}
            onBlur={keep}
            onKeyDown={(event) => {
              if (event.key === "Enter") keep();
              if (event.key === "Escape") setTitle(null);
            }}
          />
        )}
        <Flex align="center" gap="6px" color={stateColour(photo.state)} fontSize="0.8125rem" minH="22px">
          <StateMark state={photo.state} />
          <span style={{ flex: 1 }}>{photo.state}</span>
          <Touch className="card-act danger" aria-label={`Remove ${photo.title}`} onClick={() => actions.remove(photo)}>
            Remove
          </Touch>
        </Flex>
        {photo.versions.length > 0 && (
          <Box fontSize="0.75rem" color="second" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap" title={photo.versions.join(", ")}>
            {photo.versions.length === 1 ? "Version" : "Versions"}: {photo.versions.join(", ")}
          </Box>
        )}
        {!photo.readable && photo.revision !== null && (
          <Box fontSize="0.75rem" mt="2px">
            Nothing is lost: the original and all other states are kept.
            <Touch mt="4px" w="100%" fontSize="0.8125rem" aria-label={`Go back to the last readable state of ${photo.title}`} onClick={() => actions.recover(photo)}>
              Go back to the last readable state
            </Touch>
          </Box>
        )}
      </Box>
    </Box>
  );
});
