import { Flex } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { api, type Photo, Problem } from "../api/client";
import { usePhotos, useSheet } from "../api/photos";
import { Mark } from "../parts/Brand";
import { Notice } from "../parts/Notice";
import { Trouble } from "../parts/Trouble";
import { ImportsHead } from "./ImportsHead";
import { useImports } from "./imports";
import { PhotoGrid } from "./PhotoGrid";

/** All imported photos as small pictures, each with its state; files can be dropped anywhere. */
export function ContactSheet() {
  const { photos, known, error, more, changes } = usePhotos();
  const { again } = changes;
  const sheet = useSheet();
  const queries = useQueryClient();
  const add = useImports((state) => state.add);
  const [over, setOver] = useState(false);
  const [removed, setRemoved] = useState<Photo | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const bring = (files: Iterable<File> | null) => add(queries, [...(files ?? [])], () => void again());

  useEffect(() => {
    document.title = "Contact sheet · Sequor";
  }, []);

  const attempt = useCallback(
    async (work: () => Promise<unknown>) => {
      try {
        await work();
        void changes.count();
      } catch (problem) {
        setTrouble(problem instanceof Problem ? problem.message : "That did not work. Nothing was changed; please try again.");
        await changes.again();
      }
    },
    [changes],
  );

  const putBack = useCallback(
    (photo: Photo) =>
      void attempt(async () => {
        await api.restore(photo.id);
        setRemoved(null);
        await changes.again();
      }),
    [attempt, changes],
  );

  const actions = useMemo(
    () => ({
      rename: (photo: Photo, title: string) => void attempt(async () => changes.put(await api.rename(photo, title))),
      remove: (photo: Photo) =>
        void attempt(async () => {
          await api.remove(photo);
          changes.drop(photo.id);
          setRemoved(photo);
        }),
      recover: (photo: Photo) => void attempt(async () => changes.put(await api.recover(photo))),
      unseen: () => void changes.again(),
    }),
    [attempt, changes],
  );

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const undoes = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.shiftKey;
      if (!undoes || !removed || (event.target as Element).matches("input")) return;
      event.preventDefault();
      putBack(removed);
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, [removed, putBack]);

  return (
    <Flex
      direction="column"
      h="100%"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        bring(event.dataTransfer.files);
      }}
    >
      <header className="route" style={{ alignItems: "center", justifyContent: "space-between", gap: 16, paddingRight: 12, borderBottom: "1px solid var(--rule)" }}>
        <div className="route-title" style={{ borderBottom: 0, width: "auto" }}>
          <Mark />
          <div>
            <strong>Contact sheet</strong>
            <span className="beside" style={{ fontSize: "0.75rem" }}>
              Sequor
            </span>
          </div>
        </div>
        <ImportsHead />
        <input
          ref={chooser}
          type="file"
          accept="image/*,.dng,.cr2,.cr3,.nef,.arw,.raf,.orf,.rw2,.pef,.srw,.jxl,.heic,.tif,.tiff"
          multiple
          hidden
          aria-label="Photo files"
          onChange={(event) => {
            bring(event.target.files);
            event.target.value = "";
          }}
        />
      </header>
      <Trouble what="contact sheet">
        <PhotoGrid photos={photos} known={known} more={more} actions={actions} over={over} />
      </Trouble>
      <footer className="finding">
        <div role="status" className="finding-say" style={{ cursor: "default" }}>
          {error ? error.message : (sheet.data?.words ?? "Loading photos…")}
        </div>
        <button type="button" className="primary" data-primary onClick={() => chooser.current?.click()}>
          Add photos…
        </button>
      </footer>
      {removed && (
        <Notice action="Undo" onAction={() => putBack(removed)}>
          Removed “{removed.title}”. Its original and history are kept.
        </Notice>
      )}
      {trouble && (
        <Notice action="Close" onAction={() => setTrouble(null)}>
          {trouble}
        </Notice>
      )}
    </Flex>
  );
}
