import { Box } from "@chakra-ui/react";

import { KeysCard } from "../parts/KeysCard";
import { Touch } from "../parts/Touch";
import { usePreferences } from "../session/preferences";
import { ALWAYS, KEYS } from "./keys";

/** Every key of the bench. */
export function KeysPanel({ onClose }: { onClose: () => void }) {
  const on = usePreferences((state) => state.shortcuts);
  return (
    <KeysCard keys={[...KEYS.map(({ key, name }) => [key, name] as const), ...ALWAYS]} onClose={onClose}>
      <Touch mt="6px" aria-pressed={on} onClick={() => usePreferences.setState({ shortcuts: !on })}>
        Letter shortcuts: {on ? "on" : "off"}
      </Touch>
      <Box mt="6px" color="second" fontSize="0.8125rem">
        Mouse wheel: zoom. Middle button, Alt-drag or two fingers: move the picture.
      </Box>
    </KeysCard>
  );
}
