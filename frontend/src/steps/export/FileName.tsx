import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, type ExportSettings } from "../../api/client";
import { Field } from "../../parts/NumberField";
import { Aside } from "../../parts/Words";
import { useKnown, useSession } from "../../session/useSession";

interface Props {
  settings: ExportSettings;
  chosen: number[];
  now: boolean;
  disabled: boolean;
}

/** What may stand in braces. */
const KNOWN = ["{file}", "{title}", "{version}", "{ratio}", "{date}", "{n}"];
const BRACES = /{[^{}]*}/g;

/** Why a name cannot be used; null when it can. */
export function wrongName(typed: string): string | null {
  const unknown = (typed.match(BRACES) ?? []).find((one) => !KNOWN.includes(one));
  if (unknown || /[{}]/.test(typed.replace(BRACES, ""))) return `Only these can stand in braces: ${KNOWN.join(" ")}`;
  return typed.length > 200 ? "A name has at most 200 characters" : null;
}

/** What the file is called, by a template, and what comes of it. */
export function FileName({ settings, chosen, now, disabled }: Props) {
  const session = useSession();
  const photo = useKnown(({ bench }) => bench?.photo);
  const names = useQuery({
    queryKey: ["export names", session.photo, photo?.version, settings.name, settings.format, chosen, now],
    queryFn: () => api.exportNames(session.photo, settings, chosen, now),
    placeholderData: keepPreviousData,
  });
  const [first, ...others] = names.data ?? [];
  return (
    <div style={{ marginTop: 10 }}>
      <Field
        label="File name"
        width={13}
        disabled={disabled}
        shown={settings.name ?? ""}
        placeholder={chosen.length ? "{file} {version}" : "{file}-level"}
        takesNothing
        take={(typed) => {
          const wrong = wrongName(typed);
          if (!wrong && typed !== (settings.name ?? "")) void session.do({ do: "name", name: typed || null });
          return wrong;
        }}
      />
      <Aside data-names>
        {first && (
          <>
            Saved as <strong style={{ overflowWrap: "anywhere" }}>{first}</strong>
            {others.length > 0 && ` and ${others.length} more`}.{" "}
          </>
        )}
        Put in {KNOWN.join(" ")} as you like.
      </Aside>
    </div>
  );
}
