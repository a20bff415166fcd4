import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";

import type { Batch } from "../api/client";
import { fetchFile } from "../parts/fetchFile";
import { photosWords } from "../parts/figures";
import { Touch } from "../parts/Touch";
import { Bar } from "./Bar";
import { useImports } from "./imports";
import { cancelBatch, dismissBatch, isWorking, retryBatch, useWork } from "./working";

/** What is done to many photos, while it is done and when it has ended. */
const DOING: Record<string, [doing: string, done: string]> = {
  look: ["Looking at", "Looked at"],
  take: ["Taking the proposals of", "Took the proposals of"],
  carry: ["Carrying over to", "Carried over to"],
  export: ["Exporting", "Exported"],
  title: ["Titling", "Gave titles to"],
  series: ["Solving together", "Solved together"],
};

/** In the head of the sheet: how far the files are that are being added, and what is done to many photos. */
export function WorkHead({ onTold }: { onTold: () => void }) {
  const { added, ended, here, passedOver, stopAll } = useImports(
    useShallow(({ added, ended, here, passedOver, stopAll }) => ({ added, ended, here, passedOver, stopAll })),
  );
  const batches = useWork((state) => state.batches);
  const working = ended < added;
  const [closed, close] = useState(0);
  const batch = batches[batches.length - 1];
  if (working || (!batch && (here > 1 || passedOver > 0) && closed !== added))
    return (
      <div className="work-head" data-imports>
        <div className="work-words">
          <div className="cut" role="status">
            <strong>{working ? `Adding ${photosWords(added)}` : `${photosWords(ended)} read`}</strong>{" "}
            <span className="beside">
              {[working ? `${ended} done` : "", here ? `${here} already here` : "", passedOver ? `${passedOver} other files passed over` : ""].filter(Boolean).join(" · ")}
            </span>
          </div>
          {working && <Bar name="Adding photos" done={ended} of={added} />}
        </div>
        {working ? <Touch onClick={stopAll}>Cancel all</Touch> : <Touch onClick={() => close(added)}>Close</Touch>}
      </div>
    );
  return batch ? <BatchHead batch={batch} others={batches.length - 1} onTold={onTold} /> : <div className="work-head" />;
}

function BatchHead({ batch, others, onTold }: { batch: Batch; others: number; onTold: () => void }) {
  const queries = useQueryClient();
  const going = isWorking(batch);
  const [doing, done] = DOING[batch.kind] ?? ["Working on", "Done with"];
  const ended = batch.done + batch.failed + batch.cancelled;
  const changes = ["take", "carry", "series"].includes(batch.kind);
  const left = batch.total - batch.changed - batch.failed - batch.cancelled;
  const counted = [
    going ? `${ended} done` : "",
    !going && changes && left > 0 ? `${left} left as they were` : "",
    batch.failed ? `${batch.failed} failed` : "",
    batch.cancelled ? `${batch.cancelled} cancelled` : "",
    others > 0 ? `and ${others} more ${others === 1 ? "task" : "tasks"}` : "",
  ].filter(Boolean);
  const many = !going && changes ? batch.changed : batch.total;
  return (
    <div className="work-head" data-batch={batch.id}>
      <div className="work-words">
        <div className="cut" role="status">
          <strong>
            {going ? doing : done} {photosWords(many)}
            {batch.folder && !going ? ` into ${batch.folder}` : ""}
          </strong>{" "}
          <span className="beside">{counted.join(" · ")}</span>
        </div>
        {going && <Bar name={`${doing} photos`} done={ended} of={batch.total} />}
      </div>
      {batch.told.length > 0 && <Touch onClick={onTold}>Why</Touch>}
      {going && <Touch onClick={() => cancelBatch(queries, batch.id)}>Cancel</Touch>}
      {!going && (batch.failed > 0 || batch.cancelled > 0) && <Touch onClick={() => retryBatch(queries, batch.id)}>Try again</Touch>}
      {!going && batch.file !== null && <Touch onClick={() => fetchFile(batch.file ?? "")}>Download ZIP</Touch>}
      {!going && <Touch onClick={() => dismissBatch(batch.id)}>Close</Touch>}
    </div>
  );
}
