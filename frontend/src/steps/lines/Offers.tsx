import { Box, Flex } from "@chakra-ui/react";

import { Touch } from "../../parts/Touch";
import type { Seen } from "../../session/model";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { previewed } from "../../session/preview";

/** What can be done about what the finding says; pointing at a choice shows what it changes. */
export function Offers() {
  const session = useSession();
  const offer = useKnown((known) => known.seen?.offers?.[0]);
  const advice = useKnown((known) => known.seen?.advice);
  const here = useDesk((desk) => desk.step === "lines");
  if (!here) return null;
  if (!offer) return advice ? <Advice kind={advice.kind} words={advice.words} /> : null;
  return (
    <Flex flex="none" gap="6px" align="center" justify="flex-end" wrap="wrap" role="group" aria-label="Offered" data-offer={offer.name}>
      <Box fontSize="13px" lineHeight="1.25" color="second" maxW="250px" textAlign="right" pr="4px">
        {offer.words}
      </Box>
      {offer.choices.map(({ label, action, recipe }) => (
        <Touch key={label} px="8px" fontSize="13px" {...previewed(session, recipe)} onClick={() => void session.keepChoice(chosen(offer.name, label), action)}>
          {label}
        </Touch>
      ))}
    </Flex>
  );
}

/** The one line that would help most; the picture shows where. */
function Advice({ kind, words }: { kind: "plumb" | "level"; words: string }) {
  const session = useSession();
  return (
    <Flex flex="none" gap="6px" align="center" justify="flex-end" role="group" aria-label="Advised">
      <Box fontSize="13px" lineHeight="1.25" color="second" maxW="360px" textAlign="right" pr="4px">
        {words}
      </Box>
      <Touch px="8px" fontSize="13px" onClick={() => session.desk.setState({ kind, selected: null })}>
        Draw it
      </Touch>
    </Flex>
  );
}

const chosen = (name: string, label: string) => (seen: Seen) =>
  seen.offers?.find((offer) => offer.name === name)?.choices.find((choice) => choice.label === label)?.recipe;
