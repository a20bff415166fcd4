import { useQuery } from "@tanstack/react-query";

import { api, type GoingOn as Now } from "../api/client";
import { bytesWords, counted, said, timeWords } from "../parts/figures";
import { PageHead } from "../parts/PageHead";

const AGAIN_MS = 5000;

/** The work that waits and runs, the workers, the services and the room that is used; asked for again every few seconds. */
export function GoingOn() {
  const { data, error } = useQuery({ queryKey: ["going on"], queryFn: api.goingOn, refetchInterval: AGAIN_MS, retry: false });
  return (
    <div className="sheet-page">
      <PageHead name="What is going on" />
      <main className="going-on">
        {error && (
          <p role="alert" className="told danger">
            {error.message}
          </p>
        )}
        {data ? <Told now={data} /> : !error && <p className="beside">Asking…</p>}
      </main>
    </div>
  );
}

function Told({ now }: { now: Now }) {
  const used = now.used.filter(({ bytes }) => bytes > 0).sort((one, other) => other.bytes - one.bytes);
  const all = used.reduce((sum, { bytes }) => sum + bytes, 0);
  const silent = now.services.filter(({ answers }) => !answers);
  return (
    <>
      <p role="status" className="going-on-head">
        {headline(now)}
      </p>
      {silent.map(({ name, words }) => (
        <p key={name} role="alert" className="told danger">
          {words} does not answer. Nothing is lost: what was asked for is done when it is back. If it does not come back, stop Sequor and start it again.
        </p>
      ))}
      <section aria-label="Work">
        <table>
          <caption>Work</caption>
          <thead>
            <tr>
              <th scope="col">What</th>
              <th scope="col">Running</th>
              <th scope="col">Waiting</th>
              <th scope="col">First waits for</th>
              <th scope="col">Failed today</th>
            </tr>
          </thead>
          <tbody>
            {now.lanes.map(({ name, words, running, waiting, waits, failed }) => (
              <tr key={name} data-lane={name} data-idle={running + waiting === 0 || undefined}>
                <th scope="row">{words}</th>
                <td>{said(running)}</td>
                <td>{said(waiting)}</td>
                <td>{waits === null ? "–" : timeWords(waits)}</td>
                <td className={failed ? "danger" : undefined}>{said(failed)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-label="Workers">
        <table>
          <caption>Workers</caption>
          <thead>
            <tr>
              <th scope="col">Worker</th>
              <th scope="col">Doing</th>
              <th scope="col">Last word</th>
            </tr>
          </thead>
          <tbody>
            {now.workers.map(({ name, words, doing, said: ago }) => (
              <tr key={name}>
                <th scope="row">
                  {name} <span className="beside">{words}</span>
                </th>
                <td>{ago === null ? "–" : counted(doing, "task", "tasks")}</td>
                <td>{ago === null ? "none yet" : ago < 2 ? "just now" : `${timeWords(ago)} ago`}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <table>
          <caption>Services</caption>
          <tbody>
            {now.services.map(({ name, words, answers, milliseconds }) => (
              <tr key={name}>
                <th scope="row">{words}</th>
                <td className={answers ? undefined : "danger"}>{answers ? `answers in ${milliseconds.toFixed(1)} ms` : "does not answer"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-label="Storage">
        <table>
          <caption>Storage</caption>
          <tbody>
            {used.map(({ name, words, bytes }) => (
              <tr key={name}>
                <th scope="row">{words}</th>
                <td>{bytesWords(bytes)}</td>
              </tr>
            ))}
            <tr className="going-on-sum">
              <th scope="row">Used in all</th>
              <td>{bytesWords(all)}</td>
            </tr>
            <tr>
              <th scope="row">Free on the disk</th>
              <td>{bytesWords(now.free)}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </>
  );
}

function headline({ lanes, services }: Now): string {
  const running = lanes.reduce((sum, lane) => sum + lane.running, 0);
  const waiting = lanes.reduce((sum, lane) => sum + lane.waiting, 0);
  if (services.some(({ answers }) => !answers)) return "Not all of Sequor answers.";
  if (!running && !waiting) return "Nothing is being done, and nothing waits.";
  const doing = running ? `${counted(running, "task is", "tasks are")} being done` : "Nothing is being done";
  return `${doing}, ${waiting ? counted(waiting, "waits", "wait") : "nothing waits"}.`;
}
