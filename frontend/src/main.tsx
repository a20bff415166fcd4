import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";

import "./parts/face.css";

import { ChakraProvider } from "@chakra-ui/react";
import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./shell/App";
import { system } from "./parts/theme";
import { Trouble } from "./parts/Trouble";

// The content security policy lets in only styles that carry this answer's nonce.
const nonce = document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content;
const styles = createCache({ key: "sequor", nonce });
const queries = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: true } } });

const root = document.getElementById("root");
if (!root) throw new Error("the page has no place for the application");

createRoot(root).render(
  <StrictMode>
    <CacheProvider value={styles}>
      <ChakraProvider value={system}>
        <QueryClientProvider client={queries}>
          <Trouble>
            <App />
          </Trouble>
        </QueryClientProvider>
      </ChakraProvider>
    </CacheProvider>
  </StrictMode>,
);
