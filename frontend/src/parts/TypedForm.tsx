import { Flex } from "@chakra-ui/react";
import { useState } from "react";

import { Touch } from "./Touch";

interface Props {
  label: string;
  placeholder: string;
  /** What the button says that takes it. */
  take: string;
  /** How many letters it holds. */
  most?: number;
  /** Whether the button waits until something is typed. */
  needed?: boolean;
  /** Hears what was typed; the field is emptied when it was used up. */
  onTake: (words: string) => unknown;
}

/** A few words that are typed, and the button that takes them. */
export function TypedForm({ label, placeholder, take, most, needed, onTake }: Props) {
  const [typed, setTyped] = useState("");
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    if ((await onTake(typed.trim())) === "used up") setTyped("");
  };
  return (
    <Flex as="form" mt="6px" gap="6px" onSubmit={(event) => void submit(event)}>
      <input
        className="words"
        aria-label={label}
        placeholder={placeholder}
        maxLength={most}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <Touch type="submit" fontSize="0.8125rem" disabled={needed && !typed.trim()}>
        {take}
      </Touch>
    </Flex>
  );
}
