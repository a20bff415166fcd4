import { Box, Flex, Grid } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, type Photo, Problem } from "../api/client";
import { Brand } from "../parts/Brand";
import { Notice } from "../parts/Notice";
import { Touch } from "../parts/Touch";
import { ImportCard } from "./ImportCard";
import { useImports } from "./imports";
import { PhotoCard } from "./PhotoCard";
import { summary } from "./summary";

/** All imported photos as small pictures, each with its state; files can be dropped anywhere. */
export function ContactSheet() {
  const queries = useQueryClient();
  const { data: photos, error } = useQuery({ queryKey: ["photos"], queryFn: api.photos });
  const { running, add, dismiss } = useImports();
  const [over, setOver] = useState(false);
  const [removed, setRemoved] = useState<Photo | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const refresh = () => queries.invalidateQueries({ queryKey: ["photos"] });
  const bring = (files: Iterable<File> | null) => add([...(files ?? [])], () => void refresh());

  useEffect(() => {
    document.title = "Contact sheet · Sequor";
  }, []);

  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (problem) {
      setTrouble(problem instanceof Problem ? problem.message : "That did not work; nothing was changed.");
    }
    await refresh();
  };

  const remove = (photo: Photo) =>
    attempt(async () => {
      await api.remove(photo);
      setRemoved(photo);
    });

  return (
    <Flex
      direction="column"
      h="100%"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        bring(event.dataTransfer.files);
      }}
    >
      <Flex as="header" h="64px" flex="none" px="18px" align="center" justify="space-between" borderBottom="1px solid" borderColor="rule">
        <Brand>Contact sheet</Brand>
        <input
          ref={chooser}
          type="file"
          accept="image/jpeg,image/png"
          multiple
          hidden
          aria-label="Photo files"
          onChange={(event) => {
            bring(event.target.files);
            event.target.value = "";
          }}
        />
        <Touch onClick={() => chooser.current?.click()}>Choose photos…</Touch>
      </Flex>
      <Box as="main" flex="1" overflowY="auto" bg="surround" p="16px" aria-label="Contact sheet">
        <Box as="h1" srOnly>
          Contact sheet
        </Box>
        <Grid as="ul" templateColumns="repeat(auto-fill, minmax(286px, 1fr))" gap="14px" m={0} p={0}>
          {photos?.map((photo) => (
            <PhotoCard
              key={photo.id}
              photo={photo}
              onRename={(title) => void attempt(() => api.rename(photo, title))}
              onRemove={() => void remove(photo)}
              onUnseen={() => void refresh()}
              onRecover={() => void attempt(() => api.recover(photo))}
            />
          ))}
          {running.map((one) => (
            <ImportCard key={one.key} one={one} onDismiss={() => dismiss(one.key)} />
          ))}
          <Flex
            as="li"
            listStyleType="none"
            h="212px"
            direction="column"
            align="center"
            justify="center"
            gap="6px"
            border="2px dashed"
            borderColor={over ? "ink" : "#5a5a5a"}
            bg={over ? "paper" : undefined}
            borderRadius="4px"
          >
            <Box fontWeight={700}>Drop photos here</Box>
            <Box>JPEG or 8-bit PNG, or choose them above</Box>
          </Flex>
        </Grid>
      </Box>
      <Flex as="footer" h="40px" flex="none" px="16px" align="center" bg="touch" borderTop="1px solid" borderColor="rule">
        <span role="status">{error ? error.message : photos ? summary(photos) : "Reading the contact sheet …"}</span>
      </Flex>
      {removed && (
        <Notice
          action="Undo"
          onAction={() => {
            setRemoved(null);
            void attempt(() => api.restore(removed.id));
          }}
        >
          {removed.title} was removed from the contact sheet.
        </Notice>
      )}
      {trouble && (
        <Notice action="Understood" onAction={() => setTrouble(null)}>
          {trouble}
        </Notice>
      )}
    </Flex>
  );
}
