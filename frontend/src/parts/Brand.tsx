import { Box, chakra, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";

import { goTo } from "./path";

/** The mark of the product: a level and a plumb line. */
export function Mark() {
  return (
    <svg width="26" height="32" viewBox="0 0 26 32" aria-hidden="true" style={{ flex: "none" }}>
      <path d="M1 20h24" stroke="var(--chakra-colors-level)" strokeWidth="3" />
      <path d="M13 2v18" stroke="var(--chakra-colors-plumb)" strokeWidth="3" />
      <path d="M13 14l5 6-5 8-5-8z" fill="var(--chakra-colors-plumb)" />
    </svg>
  );
}

/** The mark, the name, and under it where one is. */
export function Brand({ children, home }: { children: ReactNode; home?: boolean }) {
  return (
    <Flex align="center" gap="10px" minW={0}>
      <Mark />
      <Box minW={0}>
        <Box fontSize="1.0625rem" fontWeight={700} lineHeight={1.2}>
          Sequor
        </Box>
        <Flex fontSize="0.75rem" color="second" gap="6px" align="baseline" whiteSpace="nowrap" minW={0}>
          {home && (
            <>
              <chakra.a
                href="/"
                color="ink"
                textDecoration="underline"
                onClick={(event) => {
                  event.preventDefault();
                  goTo("/");
                }}
              >
                Contact sheet
              </chakra.a>
              <span aria-hidden="true">·</span>
            </>
          )}
          <Box as="span" overflow="hidden" textOverflow="ellipsis">
            {children}
          </Box>
        </Flex>
      </Box>
    </Flex>
  );
}
