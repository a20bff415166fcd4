import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { useAsked } from "../api/asked";
import { api, type Photo } from "../api/client";
import { photosAgain, useFilters } from "../api/photos";
import { Touch } from "../parts/Touch";
import { useChosen } from "./chosen";
import { begin, complain } from "./working";

const PATTERN = /^([^{}]|\{(file|title|date|n)\})+$/;

/** Close a panel when what it began is done; by then another one may be open. */
const close = (panel: "title" | "group") => useChosen.setState((before) => (before.panel === panel ? { panel: null } : before));

/** Titles by a pattern, for all photos that are chosen. */
export function TitlePanel({ photos }: { photos: Photo[] }) {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const [pattern, setPattern] = useState("{title} {n}");
  const good = PATTERN.test(pattern);
  const first = photos.find(({ id }) => numbers.has(id));
  const digits = String(numbers.size).length;
  const example = first && pattern.replaceAll("{title}", first.title).replaceAll("{file}", first.file_name.replace(/\.[^.]*$/, "")).replaceAll("{n}", "1".padStart(digits, "0"));
  // In the order of the sheet, as far as it was read; what was not comes behind.
  const inOrder = () => {
    const seen = photos.filter(({ id }) => numbers.has(id)).map(({ id }) => id);
    const known = new Set(seen);
    return [...seen, ...[...numbers].filter((id) => !known.has(id))];
  };
  return (
    <section className="sheet-panel" aria-label="Titles">
      <label className="narrow">
        <span className="beside">Pattern</span>
        <input className="words" style={{ width: "20rem" }} autoFocus maxLength={200} value={pattern} aria-invalid={!good} onChange={({ target }) => setPattern(target.value)} />
      </label>
      <span className="beside" style={{ flex: 1 }}>
        {good ? `The first: ${example?.replaceAll("{date}", "(its date)") ?? ""}. ` : "Only {title}, {file}, {date} and {n} can stand in braces. "}
        {good && "In braces: title, file, date, n (a number)."}
      </span>
      <Touch className="boxed" disabled={!good} onClick={() => void begin(queries, () => api.giveTitles(inOrder(), pattern)).then((begun) => begun && close("title"))}>
        Give {numbers.size === 1 ? "1 title" : `${numbers.size} titles`}
      </Touch>
    </section>
  );
}

/** Groups: the chosen photos added to one, or taken out of the one that is shown. */
export function GroupPanel() {
  const queries = useQueryClient();
  const numbers = useChosen((state) => state.numbers);
  const shown = useAsked((asked) => asked.group);
  const groups = useFilters()?.group ?? [];
  const [name, setName] = useState("");
  const act = (work: () => Promise<unknown>) =>
    void work()
      .then(() => {
        close("group");
        return photosAgain(queries);
      })
      .catch(complain);
  const photos = [...numbers];
  return (
    <section className="sheet-panel" aria-label="Group">
      <form
        className="row"
        style={{ gap: 8, alignItems: "center" }}
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) act(() => api.makeGroup(name.trim(), photos));
        }}
      >
        <input className="words" style={{ width: "16rem" }} autoFocus aria-label="Name of the new group" placeholder="New group" maxLength={80} value={name} onChange={({ target }) => setName(target.value)} />
        <Touch type="submit" className="boxed" disabled={!name.trim()}>
          Make a group of {numbers.size}
        </Touch>
      </form>
      {groups.length > 0 && (
        <div className="row" role="group" aria-label="Add to a group" style={{ gap: 10, flexWrap: "wrap", alignItems: "center", flex: 1 }}>
          <span className="beside">Add to</span>
          {groups.map(({ value, name, count }) => (
            <Touch key={value} onClick={() => act(() => api.fillGroup(Number(value), photos))}>
              {name} <small>{count}</small>
            </Touch>
          ))}
        </div>
      )}
      {shown !== undefined && (
        <>
          <Touch onClick={() => act(() => api.takeOutOfGroup(Number(shown), photos))}>Remove from this group</Touch>
          <Touch
            className="danger"
            onClick={() =>
              act(async () => {
                await api.removeGroup(Number(shown));
                useAsked.setState({ group: undefined });
              })
            }
          >
            Remove the group
          </Touch>
        </>
      )}
    </section>
  );
}
