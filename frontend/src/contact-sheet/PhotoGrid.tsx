import { Box, Flex } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useRef, useState } from "react";

import type { Photo } from "../api/client";
import { ImportCard } from "./ImportCard";
import { useImports } from "./imports";
import { type CardActions, PhotoCard } from "./PhotoCard";

/** In px at the usual size of text: a card and what lies between two. */
const CARD = 286;
const GAP = 14;
const ROW = 330;

/** Where somebody was on the contact sheet, for coming back to it. */
const left = { scroll: 0, photo: null as number | null };

interface Props {
  photos: Photo[];
  known: boolean;
  more: () => void;
  actions: CardActions;
  /** Whether files are held over the page. */
  over: boolean;
}

/** The cards that are in sight, however many there are; further ones are read on the way down. */
export function PhotoGrid({ photos, known, more, actions, over }: Props) {
  const imports = useImports((state) => state.order);
  const box = useRef<HTMLDivElement>(null);
  const [columns, setColumns] = useState(0);
  const cells = photos.length + imports.length + 1;

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => {
      const inner = element.clientWidth - 32;
      setColumns(Math.max(1, Math.floor((inner + GAP) / (Math.min(CARD, inner) + GAP))));
    };
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(element);
    return () => watch.disconnect();
  }, []);

  // It changes with every scroll, so what it gives cannot be kept from one drawing to the next.
  // eslint-disable-next-line react-hooks/incompatible-library
  const window = useVirtualizer({
    count: columns ? Math.ceil(cells / columns) : 0,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    gap: GAP,
    overscan: 2,
    initialOffset: left.scroll,
  });
  const rows = window.getVirtualItems();
  const last = ((rows[rows.length - 1]?.index ?? 0) + 1) * columns;

  useEffect(() => {
    if (known && last >= photos.length) more();
  }, [known, last, photos.length, more]);

  // Coming back, one is where one was: at the same place, on the same photo.
  const restored = useRef(false);
  useEffect(() => {
    if (restored.current || !known || !rows.length) return;
    restored.current = true;
    if (box.current) box.current.scrollTop = left.scroll;
    box.current?.querySelector<HTMLElement>(`[data-photo="${left.photo}"] a`)?.focus({ preventScroll: true });
  }, [known, rows.length]);

  const cell = (at: number) => {
    const photo = photos[at];
    if (photo) return <PhotoCard key={photo.id} photo={photo} actions={actions} />;
    const key = imports[at - photos.length];
    if (key !== undefined) return <ImportCard key={`import ${key}`} of={key} />;
    return at === cells - 1 ? <DropHere key="drop" over={over} /> : null;
  };

  return (
    <Box
      as="main"
      ref={box}
      flex="1"
      minH={0}
      overflowY="auto"
      bg="surround"
      p="16px"
      aria-label="Contact sheet"
      onScroll={(event) => {
        left.scroll = event.currentTarget.scrollTop;
      }}
      onFocus={(event) => {
        const card = event.target.closest<HTMLElement>("[data-photo]");
        left.photo = card ? Number(card.dataset.photo) : null;
      }}
    >
      <Box as="h1" srOnly>
        Contact sheet
      </Box>
      {/* Rows are how it is laid out; for those who do not see it, it is one list of photos. */}
      <div role="list" style={{ position: "relative", height: window.getTotalSize() }}>
        {rows.map(({ index, start }) => (
          <div
            key={index}
            data-index={index}
            ref={window.measureElement}
            style={{ position: "absolute", insetInline: 0, top: 0, transform: `translateY(${start}px)`, display: "grid", gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gap: GAP }}
          >
            {Array.from({ length: columns }, (_, column) => cell(index * columns + column))}
          </div>
        ))}
      </div>
    </Box>
  );
}

function DropHere({ over }: { over: boolean }) {
  return (
    <Flex
      role="listitem"
      h="212px"
      direction="column"
      align="center"
      justify="center"
      gap="6px"
      border="2px dashed"
      borderColor={over ? "ink" : "faint"}
      bg={over ? "paper" : undefined}
      borderRadius="4px"
    >
      <Box fontWeight={700}>Drop photos here</Box>
      <Box>JPEG, raw, TIFF, HEIC. Or use Add photos, below.</Box>
    </Flex>
  );
}
