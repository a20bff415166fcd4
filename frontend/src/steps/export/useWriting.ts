import { useQueryClient } from "@tanstack/react-query";

import { api, wordsOf } from "../../api/client";
import { followJob, useJob, working } from "../../api/jobs";
import { useVersions } from "../../api/queries";
import { fetchFile } from "../../parts/fetchFile";
import { useDesk, useSession } from "../../session/useSession";

/** Writing the picture: what is chosen for it, how far it is, and what begins it. */
export function useWriting() {
  const session = useSession();
  const queries = useQueryClient();
  const picked = useDesk((desk) => desk.picked);
  const error = useDesk((desk) => desk.exportError);
  const job = useJob(useDesk((desk) => desk.job));
  const versions = useVersions(session.photo);
  const chosen = picked.versions.filter((id) => versions.some((one) => one.id === id));
  const now = picked.now || !chosen.length;
  const { desk, known } = session;

  const write = async () => {
    desk.setState({ exportError: null });
    try {
      await session.keepPending();
      const { bench } = known.getState();
      if (!bench) return;
      const begun = await api.export(bench.photo.id, bench.recipe.export, chosen, now);
      desk.setState({ job: begun.id });
      // It goes on, and its file is fetched, when another step is opened meanwhile.
      const ended = await followJob(queries, begun);
      if (ended.state === "done") fetchFile(`/api/jobs/${ended.id}/file`, ended.label);
    } catch (problem) {
      desk.setState({ job: null, exportError: wordsOf(problem, "The export failed and no file was made. The photo is unchanged; please try again.") });
    }
  };

  return {
    job,
    working: job !== null && working(job),
    refusal: error ?? (job?.state === "failed" ? job.error : null),
    chosen,
    now,
    words: chosen.length ? `Export ${chosen.length + Number(now)} pictures` : "Export the picture",
    write,
  };
}
