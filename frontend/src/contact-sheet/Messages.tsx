import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, wordsOf } from "../api/client";
import { Go } from "../parts/Go";
import { goTo } from "../parts/path";
import { Touch } from "../parts/Touch";
import { type Import, useImports } from "./imports";
import { useWork } from "./working";

/** So many messages are shown at once; the others are turned to. */
const SHOWN = 3;

/** What of the files that were added is to be told, each until it is read. */
export function ImportMessages() {
  const running = useImports((state) => state.running);
  const { dismiss, dismissRefused } = useImports.getState();
  const told = Object.values(running).filter(({ error }) => error !== null);
  const [first, turnTo] = useState(0);
  if (!told.length) return null;
  const begin = first < told.length ? first : 0;
  return (
    <section className="messages" aria-label="Messages">
      <div role="list">
        {told.slice(begin, begin + SHOWN).map((one) => (
          <div key={one.key} role="listitem" className="message">
            <strong className="cut">{one.name}</strong>
            <span role="alert">{one.error}</span>
            {one.steps && <Steps one={one} />}
            <Touch onClick={() => dismiss(one.key)}>Close</Touch>
          </div>
        ))}
      </div>
      {told.length > SHOWN && (
        <div className="row" style={{ gap: 12, alignItems: "center" }}>
          <span className="beside">
            {begin + 1} to {Math.min(told.length, begin + SHOWN)} of {told.length} messages
          </span>
          <Touch onClick={() => turnTo(begin + SHOWN)}>Next</Touch>
          <Touch onClick={dismissRefused}>Close all messages</Touch>
        </div>
      )}
    </section>
  );
}

/** What can be done with a picture that was exported from a photo that is here. */
function Steps({ one }: { one: Import }) {
  const queries = useQueryClient();
  const { own, dismiss } = useImports.getState();
  const [refused, setRefused] = useState<string | null>(null);
  const open = async () => {
    try {
      const { photo } = await api.takeUp(one.steps?.job ?? "");
      dismiss(one.key);
      goTo(`/photos/${photo.id}`);
    } catch (problem) {
      setRefused(wordsOf(problem));
    }
  };
  return (
    <>
      {refused && <span role="alert">{refused}</span>}
      <Touch onClick={() => void open()}>Open the original with these steps</Touch>
      <Touch onClick={() => own(queries, one.key)}>Add as a photo of its own</Touch>
    </>
  );
}

/** Photos of which something is to be told after an action on many: what failed, and why others were left. */
export function BatchMessages({ onClose }: { onClose: () => void }) {
  const batches = useWork((state) => state.batches);
  const [first, turnTo] = useState(0);
  const batch = batches[batches.length - 1];
  if (!batch?.told.length) return null;
  const begin = first < batch.told.length ? first : 0;
  const shown = 2 * SHOWN;
  return (
    <section className="messages" aria-label="What is told of single photos">
      <div role="list">
        {batch.told.slice(begin, begin + shown).map(({ photo_id, name, words, failed }, at) => (
          <div key={`${photo_id} ${at}`} role="listitem" className="message" data-failed={failed || undefined}>
            <Go to={`/photos/${photo_id}`} className="cut">
              <strong>{name}</strong>
            </Go>
            <span>{words}</span>
          </div>
        ))}
      </div>
      <div className="row" style={{ gap: 12, alignItems: "center" }}>
        <span className="beside">
          {begin + 1} to {Math.min(batch.told.length, begin + shown)} of {batch.told.length}
        </span>
        {batch.told.length > shown && <Touch onClick={() => turnTo(begin + shown)}>Next</Touch>}
        <Touch onClick={onClose}>Close</Touch>
      </div>
    </section>
  );
}
