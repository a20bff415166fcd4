import { Box, Flex } from "@chakra-ui/react";
import { type ReactNode, useEffect, useRef } from "react";

import { Touch } from "./Touch";

interface Props {
  keys: readonly (readonly [key: string, name: string])[];
  onClose: () => void;
  /** What is said besides. */
  children?: ReactNode;
}

const shown = (key: string) => (key.length === 1 && key !== key.toLowerCase() ? `Shift ${key}` : key.length === 1 ? key.toUpperCase() : key);

/** Keys and what they do, beside the work and not over it. */
export function KeysCard({ keys, onClose, children }: Props) {
  const panel = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const before = document.activeElement;
    panel.current?.focus();
    return () => (before instanceof HTMLElement ? before.focus({ preventScroll: true }) : undefined);
  }, []);
  return (
    <Box
      as="aside"
      ref={panel}
      tabIndex={-1}
      aria-label="Shortcuts"
      position="fixed"
      top="72px"
      right="12px"
      w="min(46rem, calc(100vw - 24px))"
      maxH="calc(100vh - 130px)"
      overflowY="auto"
      bg="paper"
      border="1px solid"
      borderColor="ink"
      borderRadius="4px"
      px="16px"
      py="8px"
      zIndex={20}
    >
      <Flex justify="space-between" align="center" mb="8px">
        <Box as="h2" fontWeight={700}>
          Shortcuts
        </Box>
        <Touch onClick={onClose}>Close</Touch>
      </Flex>
      <Box as="dl" m={0} css={{ columns: "2 18rem", columnGap: "24px" }}>
        {keys.map(([key, name]) => (
          <Box key={key} css={{ display: "grid", gridTemplateColumns: "6rem 1fr", breakInside: "avoid", lineHeight: "1.5rem" }}>
            <Box as="dt" fontFamily="mono">
              {shown(key)}
            </Box>
            <Box as="dd" m={0}>
              {name}
            </Box>
          </Box>
        ))}
      </Box>
      {children}
    </Box>
  );
}
