import { Box } from "@chakra-ui/react";
import { Component, type ReactNode } from "react";

import { Touch } from "./Touch";

interface Props {
  children: ReactNode;
}

/** What is shown instead of a blank page when the page itself fails. */
export class Trouble extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError = () => ({ failed: true });

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <Box as="main" role="alert" p="32px" maxW="560px">
        <Box as="h1" fontWeight={700} fontSize="18px">
          The page failed
        </Box>
        <Box mt="8px">
          This is a fault in Sequor. All that was stored is safe; the last action may be missing. Load the page again, or go
          back to the contact sheet.
        </Box>
        <Box mt="16px" display="flex" gap="6px">
          <Touch onClick={() => window.location.reload()}>Load again</Touch>
          <Touch onClick={() => window.location.assign("/")}>Contact sheet</Touch>
        </Box>
      </Box>
    );
  }
}
