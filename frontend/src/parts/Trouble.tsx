import { Box } from "@chakra-ui/react";
import { Component, type ReactNode } from "react";

import { Touch } from "./Touch";

interface Props {
  /** What of the page is in here; without a name it is all of it. */
  what?: string;
  children: ReactNode;
}

/** What is shown instead of a blank when the page itself fails, or a part of it. */
export class Trouble extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError = () => ({ failed: true });

  override render() {
    const { what, children } = this.props;
    if (!this.state.failed) return children;
    return (
      <Box as={what ? "div" : "main"} role="alert" p={what ? "1rem" : "2rem"} maxW="35rem">
        <Box as={what ? "h2" : "h1"} fontWeight={700} fontSize={what ? "1rem" : "1.125rem"}>
          The {what ?? "page"} failed
        </Box>
        <Box mt="0.5rem">
          This is a fault in Sequor. All that was stored is safe; the last action may be missing.{" "}
          {what ? "Try again; if it fails once more, load the page again." : "Load the page again, or go back to the contact sheet."}
        </Box>
        <Box mt="1rem" display="flex" flexWrap="wrap" gap="6px">
          {what && <Touch onClick={() => this.setState({ failed: false })}>Try again</Touch>}
          <Touch onClick={() => window.location.reload()}>Reload</Touch>
          <Touch onClick={() => window.location.assign("/")}>Contact sheet</Touch>
        </Box>
      </Box>
    );
  }
}
