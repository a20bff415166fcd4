import { useEffect, useState } from "react";

import { api, wordsOf } from "../api/client";
import { Mark } from "../parts/Brand";
import { Secret } from "./Secret";

/** The way in, where Sequor is open to a network; the page begins afresh behind it. */
export function SignIn() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [why, setWhy] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    document.title = "Sign in · Sequor";
  }, []);
  const submit = async () => {
    setBusy(true);
    try {
      await api.signIn(name, password);
      window.location.reload();
    } catch (problem) {
      setWhy(wordsOf(problem));
      setPassword("");
      setBusy(false);
    }
  };
  return (
    <main className="way-in">
      <form
        aria-label="Sign in"
        onSubmit={(event) => {
          event.preventDefault();
          if (!busy) void submit();
        }}
      >
        <div className="way-in-head">
          <Mark />
          <h1>Sequor</h1>
        </div>
        <p className="beside">Sign in to see your photos. Whoever keeps this Sequor gives you a name and a password.</p>
        <label className="account-field">
          <span>Name</span>
          <input className="words" autoComplete="username" autoFocus maxLength={80} required value={name} onChange={({ target }) => setName(target.value)} />
        </label>
        <Secret label="Password" name="current-password" value={password} onType={setPassword} />
        {why && (
          <p role="alert" className="told danger">
            {why}
          </p>
        )}
        <button type="submit" className="primary" disabled={busy}>
          Sign in
        </button>
      </form>
    </main>
  );
}
