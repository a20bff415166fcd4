import { Box, Flex, Input } from "@chakra-ui/react";
import { useState } from "react";

import { api, type ExportSettings, type Job, Problem } from "../../api/client";
import { followJob } from "../../api/followJob";
import { keep, keepPending, readNow, recipeNow, useBench } from "../../bench/benchStore";
import { Touch } from "../../Touch";

/** Write the picture at full resolution: format, quality, progress, and what goes along in the file. */
export function ExportStep() {
  const bench = useBench((state) => state.bench);
  const recipe = useBench(recipeNow);
  const read = useBench(readNow);
  const [job, setJob] = useState<Job | null>(null);
  const [error, setError] = useState<string | null>(null);
  if (!bench || !recipe || !read) return null;
  const settings = recipe.export;
  const working = job !== null && (job.state === "waiting" || job.state === "running");

  const change = (part: Partial<ExportSettings>, action: string) =>
    void keep((now) => ({ ...now, export: { ...now.export, ...part } }), action);

  const write = async () => {
    setError(null);
    try {
      await keepPending();
      const ended = await followJob(await api.export(bench.photo.id, settings), setJob);
      if (ended.state === "failed") setError(ended.error);
      if (ended.state === "done") download(ended);
    } catch (problem) {
      setJob(null);
      setError(problem instanceof Problem ? problem.message : "The export failed; the photo is as it was. Try again.");
    }
  };

  return (
    <Box px="16px" py="12px" overflowY="auto">
      <Box as="h2" fontWeight={700}>
        Export
      </Box>
      <Box mt="4px" color="second" fontSize="13px">
        {read.frame.width} × {read.frame.height} px, full resolution. The original stays as it is.
      </Box>
      <Flex mt="12px" gap="6px" role="group" aria-label="Format">
        {(["jpeg", "png"] as const).map((format) => (
          <Touch
            key={format}
            flex="1"
            aria-pressed={settings.format === format}
            disabled={working}
            onClick={() => settings.format !== format && change({ format }, `Export as ${format.toUpperCase()}`)}
          >
            {format.toUpperCase()}
          </Touch>
        ))}
      </Flex>
      {settings.format === "jpeg" && (
        <Quality value={settings.quality} disabled={working} onAccept={(quality) => change({ quality }, `JPEG quality ${quality}`)} />
      )}
      <Touch mt="14px" w="100%" border="2px solid" borderColor="ink" fontWeight={700} disabled={working} onClick={() => void write()}>
        Write the picture
      </Touch>
      {working && (
        <Box mt="12px">
          <Box
            role="progressbar"
            aria-label="Export"
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(job.progress * 100)}
            h="6px"
            bg="rule"
            borderRadius="3px"
          >
            <Box h="6px" bg="ink" borderRadius="3px" style={{ width: `${job.progress * 100}%` }} />
          </Box>
          <Flex justify="space-between" align="center" mt="6px">
            <span>
              {job.words}, {Math.round(job.progress * 100)} %
            </span>
            <Touch onClick={() => void api.cancel(job.id)}>Stop</Touch>
          </Flex>
        </Box>
      )}
      <Box mt="12px" role="status">
        {job?.state === "done" && (
          <>
            Written as <strong>{job.label}</strong>.
          </>
        )}
        {job?.state === "cancelled" && "Stopped; nothing was written."}
      </Box>
      {error && (
        <Box mt="8px" role="alert" borderLeft="4px solid" borderColor="plumb" pl="10px">
          {error}
        </Box>
      )}
      <Box mt="16px" fontSize="13px" color="second">
        The camera's record and the colour profile go along.{" "}
        {bench.photo.keeps_place && <strong>So does the place where the photo was taken (GPS).</strong>}
      </Box>
    </Box>
  );
}

function Quality({ value, disabled, onAccept }: { value: number; disabled: boolean; onAccept: (quality: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const accept = () => {
    const number = Math.round(Number(typed));
    setTyped(null);
    if (typed && Number.isFinite(number)) {
      const quality = Math.min(100, Math.max(1, number));
      if (quality !== value) onAccept(quality);
    }
  };
  return (
    <Flex mt="10px" align="center" justify="space-between" gap="10px">
      <label htmlFor="quality">Quality, 1 to 100</label>
      <Input
        id="quality"
        w="84px"
        h="40px"
        bg="touch"
        borderColor="edge"
        fontFamily="mono"
        textAlign="right"
        inputMode="numeric"
        disabled={disabled}
        value={typed ?? String(value)}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={accept}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
    </Flex>
  );
}

function download(job: Job) {
  const link = document.createElement("a");
  link.href = `/api/jobs/${job.id}/file`;
  link.download = job.label;
  link.click();
}
