import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type PointerEvent, useEffect, useLayoutEffect, useRef, useState } from "react";

import type { Photo } from "../api/client";
import { choose, useChosen } from "./chosen";
import { ImportCard } from "./ImportCard";
import { useImports } from "./imports";
import { type CardActions, PhotoCard } from "./PhotoCard";

/** In px at the usual size of text: the least width of a card, its height, and what lies between two. */
const SIZES = { small: { card: 132, row: 122 }, large: { card: 272, row: 262 } };
const GAP = 6;
const MARGIN = 12;
/** So far a pointer moves before a net is cast. */
const CAST = 6;

/** Where somebody was on the contact sheet, for coming back to it. */
const left = { scroll: 0 };

interface Props {
  photos: Photo[];
  known: boolean;
  more: () => void;
  actions: CardActions;
  /** Whether files are held over the page. */
  over: boolean;
}

interface Net {
  x: number;
  y: number;
  toX: number;
  toY: number;
}

/** The cards that are in sight, however many there are; further ones are read on the way down. */
export function PhotoGrid({ photos, known, more, actions, over }: Props) {
  const imports = useImports((state) => state.order);
  const chosen = useChosen((state) => state.numbers);
  const here = useChosen((state) => state.here);
  const size = useChosen((state) => (state.large ? SIZES.large : SIZES.small));
  const box = useRef<HTMLElement>(null);
  const [columns, setColumns] = useState(0);
  const [net, setNet] = useState<Net | null>(null);
  const cells = photos.length + imports.length + 1;
  const at = Math.max(0, photos.findIndex(({ id }) => id === here));

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => {
      const inner = element.clientWidth - 2 * MARGIN;
      const rem = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
      setColumns(Math.max(1, Math.floor((inner + GAP) / (Math.min(size.card * rem, inner) + GAP))));
    };
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(element);
    return () => watch.disconnect();
  }, [size]);

  // It changes with every scroll, so what it gives cannot be kept from one drawing to the next.
  // eslint-disable-next-line react-hooks/incompatible-library
  const window_ = useVirtualizer({
    count: columns ? Math.ceil(cells / columns) : 0,
    getScrollElement: () => box.current,
    estimateSize: () => size.row,
    gap: GAP,
    overscan: 2,
    initialOffset: left.scroll,
    paddingStart: MARGIN,
    paddingEnd: MARGIN,
  });
  const rows = window_.getVirtualItems();
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
    box.current?.querySelector<HTMLElement>(`[data-photo="${useChosen.getState().here}"] a`)?.focus({ preventScroll: true });
  }, [known, rows.length]);

  const goToCard = (index: number, extend: boolean) => {
    const photo = photos[Math.min(photos.length - 1, Math.max(0, index))];
    if (!photo) return;
    const { anchor } = useChosen.getState();
    useChosen.setState({ here: photo.id });
    if (extend) {
      if (anchor === null) useChosen.setState({ anchor: photos[at]?.id ?? photo.id });
      actions.choose(photo, { more: false, range: true });
    }
    window_.scrollToIndex(Math.floor(photos.indexOf(photo) / columns));
    // It may have to be drawn first; whoever is on to another card by then stays there.
    const focus = () => useChosen.getState().here === photo.id && box.current?.querySelector<HTMLElement>(`[data-photo="${photo.id}"] a`)?.focus({ preventScroll: true });
    requestAnimationFrame(() => requestAnimationFrame(focus));
  };

  const onKeyDown = (event: KeyboardEvent) => {
    if (!(event.target as Element).matches("a[data-open], main")) return;
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -columns, ArrowDown: columns, Home: -photos.length, End: photos.length, PageUp: -4 * columns, PageDown: 4 * columns }[event.key];
    const photo = photos[at];
    if (step !== undefined) goToCard(at + step, event.shiftKey);
    else if (event.key === " " && photo) actions.choose(photo, { more: true, range: event.shiftKey });
    else return;
    event.preventDefault();
  };

  /** Which photos lie under a net, drawn or not. */
  const under = ({ x, y, toX, toY }: Net): number[] => {
    const width = (box.current?.clientWidth ?? 0) - 2 * MARGIN;
    const across = (width + GAP) / columns;
    const [first, final] = [Math.min(x, toX) - MARGIN, Math.max(x, toX) - MARGIN];
    const [top, bottom] = [Math.min(y, toY) - MARGIN, Math.max(y, toY) - MARGIN];
    const high = rows[0] ? rows[0].size + GAP : size.row + GAP;
    const found: number[] = [];
    for (let row = Math.max(0, Math.floor((top + GAP) / high)); row * high <= bottom; row++)
      for (let column = 0; column < columns; column++) {
        const photo = photos[row * columns + column];
        if (photo && column * across <= final && (column + 1) * across - GAP >= first) found.push(photo.id);
      }
    return found;
  };

  const place = (event: PointerEvent) => {
    const bounds = box.current?.getBoundingClientRect();
    return bounds ? { x: event.clientX - bounds.left, y: event.clientY - bounds.top + (box.current?.scrollTop ?? 0) } : { x: 0, y: 0 };
  };
  const casting = useRef<{ from: { x: number; y: number }; before: ReadonlySet<number>; pointer: number } | null>(null);
  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0 || event.pointerType === "touch" || (event.target as Element).closest(".card, button, input, a")) return;
    const before = event.ctrlKey || event.metaKey || event.shiftKey ? useChosen.getState().numbers : new Set<number>();
    casting.current = { from: place(event), before, pointer: event.pointerId };
  };
  const onPointerMove = (event: PointerEvent) => {
    const cast = casting.current;
    if (!cast || cast.pointer !== event.pointerId) return;
    const to = place(event);
    if (!net && Math.hypot(to.x - cast.from.x, to.y - cast.from.y) < CAST) return;
    if (!net) box.current?.setPointerCapture(event.pointerId);
    const element = box.current;
    if (element) {
      const bounds = element.getBoundingClientRect();
      if (event.clientY > bounds.bottom - 20) element.scrollTop += 24;
      if (event.clientY < bounds.top + 20) element.scrollTop -= 24;
    }
    const drawn = { ...cast.from, toX: to.x, toY: to.y };
    setNet(drawn);
    choose([...cast.before, ...under(drawn)]);
  };
  const onPointerUp = () => {
    if (casting.current && !net && !casting.current.before.size) choose([]);
    casting.current = null;
    setNet(null);
  };

  const cell = (index: number) => {
    const photo = photos[index];
    if (photo) return <PhotoCard key={photo.id} photo={photo} actions={actions} chosen={chosen.has(photo.id)} here={index === at} />;
    const key = imports[index - photos.length];
    if (key !== undefined) return <ImportCard key={`import ${key}`} of={key} />;
    return index === cells - 1 ? <DropHere key="drop" over={over} /> : null;
  };

  return (
    <main
      ref={box}
      className="sheet"
      aria-label="Contact sheet"
      data-large={size === SIZES.large || undefined}
      onKeyDown={onKeyDown}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={onPointerUp}
      onScroll={(event) => {
        left.scroll = event.currentTarget.scrollTop;
      }}
      onFocus={(event) => {
        const card = event.target.closest<HTMLElement>("[data-photo]");
        if (card) useChosen.setState({ here: Number(card.dataset.photo) });
      }}
    >
      <h1 className="heard">Contact sheet</h1>
      {/* Rows are how it is arranged; for those who do not see it, it is one list of photos. */}
      <div role="list" style={{ position: "relative", height: window_.getTotalSize() }}>
        {rows.map(({ index, start }) => (
          <div
            key={index}
            data-index={index}
            ref={window_.measureElement}
            className="sheet-row"
            style={{ transform: `translateY(${start}px)`, gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
          >
            {Array.from({ length: columns }, (_, column) => cell(index * columns + column))}
          </div>
        ))}
        {net && (
          <div
            className="net"
            style={{ left: Math.min(net.x, net.toX), top: Math.min(net.y, net.toY), width: Math.abs(net.toX - net.x), height: Math.abs(net.toY - net.y) }}
          />
        )}
      </div>
    </main>
  );
}

function DropHere({ over }: { over: boolean }) {
  return (
    <div role="listitem" className="drop-here" data-over={over || undefined}>
      Drop photos or folders anywhere
    </div>
  );
}
