import { Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";

import { Touch } from "./Touch";

/** A message that stays until it is answered: what happened, what was kept, what to do. */
export function Notice({ children, action, onAction }: { children: ReactNode; action: string; onAction: () => void }) {
  return (
    <Flex
      role="alert"
      position="fixed"
      bottom="52px"
      left="50%"
      transform="translateX(-50%)"
      maxW="min(720px, 94vw)"
      bg="touch"
      border="2px solid"
      borderColor="ink"
      borderRadius="4px"
      px="14px"
      py="8px"
      gap="16px"
      align="center"
      zIndex={30}
    >
      <span>{children}</span>
      <Touch onClick={onAction}>{action}</Touch>
    </Flex>
  );
}
