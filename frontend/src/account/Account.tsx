import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, wordsOf } from "../api/client";
import { PageHead } from "../parts/PageHead";
import { Touch } from "../parts/Touch";
import { Secret } from "./Secret";

const SHORTEST = 12;

/** Who has signed in, another password, and the way out. */
export function Account() {
  const { data: session } = useQuery({ queryKey: ["session"], queryFn: api.session });
  return (
    <div className="sheet-page">
      <PageHead name="Account" title={session?.account ?? undefined} />
      <main className="account">
        {session?.network === false && <p className="beside">Sequor is open to this computer only. Nobody needs to sign in here.</p>}
        {session?.account && (
          <>
            <Leaving />
            <Password />
          </>
        )}
      </main>
    </div>
  );
}

/** What is begun by a button ends with a fresh page, or with words why it did not. */
function Leaving() {
  const [why, setWhy] = useState<string | null>(null);
  const leave = (way: () => Promise<void>) =>
    void way().then(
      () => window.location.assign("/"),
      (problem: unknown) => setWhy(wordsOf(problem)),
    );
  return (
    <section aria-label="Sign out">
      <h2>Sign out</h2>
      <p className="beside">All that was saved is kept. After twelve hours you are signed out automatically.</p>
      <div className="account-row">
        <Touch className="boxed" onClick={() => leave(api.signOut)}>
          Sign out
        </Touch>
        <Touch className="boxed" onClick={() => leave(api.signOutEverywhere)}>
          Sign out on every device
        </Touch>
      </div>
      {why && (
        <p role="alert" className="told danger">
          {why}
        </p>
      )}
    </section>
  );
}

function Password() {
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  const [told, setTold] = useState<{ words: string; well: boolean } | null>(null);
  const change = async () => {
    try {
      await api.changePassword(old, next);
      setTold({ words: "The password is changed. Other devices are signed out.", well: true });
      setOld("");
      setNext("");
    } catch (problem) {
      setTold({ words: wordsOf(problem), well: false });
    }
  };
  return (
    <section aria-label="Password">
      <h2>Another password</h2>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void change();
        }}
      >
        <Secret label="Present password" name="current-password" value={old} onType={setOld} />
        <Secret label={`New password, ${SHORTEST} characters or more`} name="new-password" value={next} onType={setNext} />
        <Touch type="submit" className="boxed" disabled={next.length < SHORTEST}>
          Change the password
        </Touch>
      </form>
      {told && (
        <p role={told.well ? "status" : "alert"} className={told.well ? "told" : "told danger"}>
          {told.words}
        </p>
      )}
    </section>
  );
}
