import { Box, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

import { api, type Recipe, type Revision, type Version } from "../api/client";
import { numbered, useLog, useVersions } from "../api/queries";
import { capital } from "../parts/sentence";
import { INK, LIGHT, SURROUNDS } from "../parts/theme";
import { Choice, Touch } from "../parts/Touch";
import { changeComparison, flip, stopComparing } from "../session/desk";
import { edgeOf, type Mesh, plainMesh, type Point } from "../session/mesh";
import { type Comparison, type Seen, type Side, unpacked } from "../session/model";
import { usePreferences } from "../session/preferences";
import { listedParts, sharpestAt } from "../session/takes";
import { laidOver } from "../session/touchUps";
import { useDesk, useKnown, useSession } from "../session/useSession";
import { Picture } from "../stage/draw/Picture";
import { FROM_SCALE, TileGrid } from "../stage/draw/TileGrid";
import { Left } from "../stage/layers/Frame";
import { frameOverlay } from "../stage/layers/FrameOverlay";
import { TakesLayer } from "../stage/layers/TakesLayer";
import { TouchLayer } from "../stage/layers/TouchLayer";
import type { Rect } from "../stage/tools/frameGeometry";
import { activate } from "../stage/view/active";
import { onSize, onWheel, Pinch } from "../stage/view/gestures";
import { StageView } from "../stage/view/stageView";
import type { Scene } from "../stage/view/surface";
import { type Size, toStage, type View } from "../stage/view/view";

const WAYS: Comparison["way"][] = ["side by side", "wipe", "flick"];
const PAN = 60;

/** One side of a comparison, ready to be drawn; before anything was done it has no frame. */
interface Shown {
  recipe: Recipe;
  mesh: Mesh;
  map: string;
  frame: Seen["frame"] | null;
  outline: readonly (readonly [number, number])[];
  madeFor: string | null;
  touchUps: Seen["touch_ups"];
}

/** What can be chosen for a side. */
interface States {
  revisions: Revision[];
  versions: Version[];
}

/** Two states of the photo: flicked, wiped, or side by side with one zoom and one place. */
export function Compare() {
  const session = useSession();
  const comparison = useDesk((state) => state.comparison);
  const surround = usePreferences((state) => state.surround);
  const box = useRef<HTMLDivElement>(null);
  const [stageView] = useState(() => new StageView());
  const [pinch] = useState(() => new Pinch(stageView));
  const [stage, setStage] = useState<Size>({ width: 0, height: 0 });
  const [split, setSplit] = useState(0.5);
  const [head, setHead] = useState(44);
  const left = useSide(comparison?.left ?? "before");
  const right = useSide(comparison?.right ?? "now");
  const version = useKnown(({ bench }) => bench?.photo.version);
  const states: States = { revisions: useLog(session.photo, version).revisions, versions: useVersions(session.photo) };
  const sided = comparison?.way === "side by side";
  const pane: Size = useMemo(
    () => (sided ? { width: stage.width / 2, height: stage.height } : stage),
    [sided, stage],
  );
  const { view } = useStore(stageView.store);

  useEffect(() => {
    const surface = box.current;
    if (!surface) return;
    const ends = [onSize(surface, (width, height) => setStage({ width, height })), onWheel(surface, stageView), activate(stageView)];
    surface.focus();
    return () => ends.forEach((end) => end());
  }, [stageView]);

  useLayoutEffect(() => {
    const corners = right ? cornersOf(right) : [];
    stageView.show({ frame: corners, whole: corners }, pane, head + 8);
  }, [stageView, right, pane, head]);

  if (!comparison) return null;
  const { way, flipped } = comparison;
  const panes: { side: Shown | null; at: number; clip?: string; name: string }[] =
    way === "flick"
      ? [{ side: flipped ? left : right, at: 0, name: flipped ? "left" : "right" }]
      : way === "wipe"
        ? [
            { side: left, at: 0, name: "left" },
            { side: right, at: 0, clip: `inset(0 0 0 ${split * 100}%)`, name: "right" },
          ]
        : [
            { side: left, at: 0, name: "left" },
            { side: right, at: pane.width, name: "right" },
          ];
  return (
    <Box
      ref={box}
      position="relative"
      flex="1"
      minH={0}
      overflow="hidden"
      tabIndex={0}
      role="application"
      aria-label="Comparison. Arrow keys move both pictures."
      _focusVisible={{ outlineOffset: "-4px" }}
      style={{ background: SURROUNDS[surround], touchAction: "none", cursor: "grab" }}
      data-compare={way}
      data-scale={view.scale}
      data-middle={`${view.x} ${view.y}`}
      onPointerDown={(event) => {
        if ((event.target as Element).closest("[data-controls]")) return;
        pinch.down(event);
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (pinch.move(event)) return;
        if (event.currentTarget.hasPointerCapture(event.pointerId)) stageView.pan(event.movementX, event.movementY);
      }}
      onPointerUp={(event) => pinch.up(event)}
      onPointerCancel={(event) => pinch.up(event)}
      onKeyDown={(event) => {
        const to = ({ ArrowLeft: [PAN, 0], ArrowRight: [-PAN, 0], ArrowUp: [0, PAN], ArrowDown: [0, -PAN] } as Record<string, [number, number]>)[event.key];
        if (!to || event.target !== event.currentTarget) return;
        event.preventDefault();
        stageView.pan(...to);
      }}
    >
      {panes.map(({ side, at, clip, name }) => (
        <div
          key={name}
          data-pane={name}
          style={{ position: "absolute", left: at, top: 0, width: pane.width, height: pane.height, overflow: "hidden", clipPath: clip, background: clip && SURROUNDS[surround] }}
        >
          {side && <Pane side={side} view={way === "wipe" || !right ? view : sameSize(view, side, right)} stage={pane} name={name} />}
          <Box data-title position="absolute" bottom="12px" left={clip ? undefined : "12px"} right={clip ? "12px" : undefined} px="8px" py="2px" borderRadius="4px" bg="ink" color="touch" fontSize="0.8125rem">
            {titleOf(name === "left" ? comparison.left : comparison.right, states)}
          </Box>
        </div>
      ))}
      {way === "side by side" && <Box position="absolute" left={`${pane.width - 1}px`} top={0} bottom={0} w="2px" bg="ink" />}
      {way === "wipe" && <Divider split={split} onSplit={setSplit} width={stage.width} />}
      <Controls comparison={comparison} states={states} view={stageView} onHeight={setHead} />
    </Box>
  );
}

/** What is written of a side, two corners in its own pixels: its frame, or all of the photo before anything was done. */
function cornersOf({ frame, outline }: Shown): [Point, Point] {
  if (frame) return [[frame.x, frame.y], [frame.x + frame.width, frame.y + frame.height]];
  const [xs, ys] = [outline.map(([x]) => x), outline.map(([, y]) => y)];
  return [[Math.min(...xs), Math.min(...ys)], [Math.max(...xs), Math.max(...ys)]];
}

/** The view in which a side is as large as the other one, at the same place of it. (In a wipe the two lie in register.) */
function sameSize(view: View, side: Shown, other: Shown): View {
  if (side === other) return view;
  const [from, to] = [cornersOf(other), cornersOf(side)];
  const length = ([low, high]: [Point, Point], axis: 0 | 1) => high[axis] - low[axis];
  const middle = ([low, high]: [Point, Point], axis: 0 | 1) => (low[axis] + high[axis]) / 2;
  const larger = Math.min(length(from, 0) / length(to, 0), length(from, 1) / length(to, 1));
  const along = (axis: 0 | 1, at: number) => middle(to, axis) + (at - middle(from, axis)) / larger;
  return { scale: view.scale * larger, x: along(0, view.x), y: along(1, view.y) };
}

function titleOf(side: Side, { revisions, versions }: States): string {
  if (side === "before") return "As taken";
  const version = versions.find(({ revision }) => revision === side);
  if (version) return version.name;
  const found = revisions.find(({ id }) => id === side);
  return side === "now" || !found ? "Current state" : numbered(found);
}

function Pane({ side, view, stage, name }: { side: Shown; view: View; stage: Size; name: string }) {
  const { photo: id } = useSession();
  const surround = usePreferences((state) => state.surround);
  const { mesh, frame, map, outline, recipe, madeFor, touchUps } = side;
  const over = frame ? laidOver(recipe, touchUps, {}, sharpestAt(view.scale), null) : [];
  const laid = frame && madeFor ? listedParts(recipe, madeFor, sharpestAt(view.scale)) : null;
  const [x, y] = frame ? toStage(view, stage, [frame.x, frame.y]) : [0, 0];
  const rect: Rect | null = frame && [x, y, frame.width * view.scale, frame.height * view.scale];
  const colour = recipe.edges.mode === "leave" ? recipe.edges.colour : null;
  return (
    <>
      {rect && colour && <Left rect={rect} colour={colour} />}
      {laid && frame && <TakesLayer laid={laid} frame={frame} view={view} stage={stage} />}
      <Drawn quarterTurns={recipe.photo.quarter_turns} develop={recipe.develop ?? null} mesh={mesh} view={view} size={stage} label={`The ${name} picture`} />
      {view.scale >= FROM_SCALE && <TileGrid photoId={id} map={map} view={view} stage={stage} outline={outline} />}
      {frame && over.length > 0 && <TouchLayer over={over} frame={frame} view={view} stage={stage} />}
      {rect &&
        frameOverlay({
          rect,
          stage,
          surround,
          held: false,
          veil: 1,
          bare: true,
          outline: recipe.frame.allow_empty && !laid && !colour ? outline.map((point) => toStage(view, stage, point)) : null,
          printed: null,
          id: name,
        })}
    </>
  );
}

/** The picture of a pane, drawn as its pane says. */
function Drawn({ mesh, view, size, ...of }: Scene & { quarterTurns: number; develop: Recipe["develop"]; label: string }) {
  const [scene] = useState(() => createStore<Scene>(() => ({ mesh, view, size })));
  useLayoutEffect(() => scene.setState({ mesh, view, size }), [scene, mesh, view, size]);
  return <Picture scene={scene} {...of} />;
}

/** The edge between the two pictures of a wipe. */
function Divider({ split, onSplit, width }: { split: number; onSplit: (share: number) => void; width: number }) {
  const set = (share: number) => onSplit(Math.min(1, Math.max(0, share)));
  return (
    <div
      role="slider"
      tabIndex={0}
      data-controls
      data-divider
      aria-label="Divider between the two pictures"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(split * 100)}
      aria-valuetext={`${Math.round(split * 100)} per cent`}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const place = event.currentTarget.closest("[data-compare]")?.getBoundingClientRect();
        if (place) set((event.clientX - place.left) / place.width);
      }}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
        if (!by) return;
        event.preventDefault();
        event.stopPropagation();
        set(split + (by * (event.shiftKey ? 10 : 1)) / 100);
      }}
      style={{ position: "absolute", top: 0, bottom: 0, left: 0, width: 40, transform: `translateX(${split * width - 20}px)`, cursor: "ew-resize", touchAction: "none" }}
    >
      <svg aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}>
        <path d="M20 0V4000" stroke={INK} strokeWidth={4} />
        <path d="M20 0V4000" stroke={LIGHT} strokeWidth={1.4} />
      </svg>
      <Box position="absolute" top="50%" left="8px" w="24px" h="48px" mt="-24px" bg="ink" borderRadius="4px" />
    </div>
  );
}

interface ControlsProps {
  comparison: Comparison;
  states: States;
  view: StageView;
  onHeight: (height: number) => void;
}

const small = { fontSize: "0.8125rem", px: "10px" };

/** Which two pictures, in which way, how near; and the way back to the work. */
function Controls({ comparison, states, view, onHeight }: ControlsProps) {
  const session = useSession();
  const row = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = row.current;
    return element ? onSize(element, () => onHeight(element.offsetHeight)) : undefined;
  }, [onHeight]);
  const fitted = useStore(view.store, (state) => state.fitted);
  const set = (changes: Partial<Comparison>) => changeComparison(session, (now) => ({ ...now, ...changes }));
  const { way, flipped } = comparison;
  return (
    <Flex ref={row} data-controls position="absolute" left="12px" right="12px" top="4px" wrap="wrap" justify="space-between" gap="6px">
      <Flex gap="6px" wrap="wrap">
        <SidePicker name="Left" side={comparison.left} states={states} onPick={(left) => set({ left })} />
        <SidePicker name="Right" side={comparison.right} states={states} onPick={(right) => set({ right })} />
        <Flex role="group" aria-label="Comparison layout">
          {WAYS.map((one) => (
            <Touch key={one} {...small} aria-pressed={way === one} onClick={() => set({ way: one })}>
              {capital(one)}
            </Touch>
          ))}
        </Flex>
        {way === "flick" && (
          <Touch {...small} aria-pressed={flipped} onClick={() => flip(session)}>
            {flipped ? "Swap (showing left)" : "Swap (showing right)"}
          </Touch>
        )}
      </Flex>
      <Flex gap="6px" wrap="wrap">
        <Touch {...small} aria-pressed={fitted === "fit"} onClick={view.fit}>
          Fit
        </Touch>
        <Touch {...small} onClick={() => view.zoomTo(1)}>
          100%
        </Touch>
        <Touch {...small} onClick={() => view.zoomTo(2)}>
          200%
        </Touch>
        <Touch {...small} onClick={() => stopComparing(session)}>
          Close comparison
        </Touch>
      </Flex>
    </Flex>
  );
}

interface PickerProps {
  name: string;
  side: Side;
  states: States;
  onPick: (side: Side) => void;
}

function SidePicker({ name, side, states, onPick }: PickerProps) {
  return (
    <Choice
      aria-label={`${name} picture`}
      maxW="170px"
      value={String(side)}
      onChange={(event) => {
        const { value } = event.target;
        onPick(value === "before" || value === "now" ? value : Number(value));
      }}
    >
      <option value="before">As taken</option>
      <option value="now">Current state</option>
      {states.versions.length > 0 && (
        <optgroup label="Versions">
          {states.versions.map((one) => (
            <option key={one.id} value={one.revision}>
              {one.name}
            </option>
          ))}
        </optgroup>
      )}
      <optgroup label="History">
        {states.revisions
          .filter((one) => !states.versions.some(({ revision }) => revision === one.id))
          .map((one) => (
            <option key={one.id} value={one.id}>
              {numbered(one)}
            </option>
          ))}
      </optgroup>
    </Choice>
  );
}

/** What a side shows; null until a revision has been fetched. */
function useSide(side: Side): Shown | null {
  const { photo } = useSession();
  const bench = useKnown((state) => state.bench);
  const seen = useKnown((state) => state.seen);
  const wanted = typeof side === "number" ? side : null;
  const { data: revision } = useQuery({
    queryKey: ["revision", photo, wanted],
    queryFn: () => api.revision(photo, wanted ?? 0),
    enabled: wanted !== null,
    staleTime: Infinity,
  });
  return useMemo(() => {
    if (!bench || !seen) return null;
    if (side === "before") {
      const mesh = plainMesh(bench.recipe.photo.width, bench.recipe.photo.height, seen.mesh.columns, seen.mesh.rows);
      return { recipe: bench.recipe, mesh, map: seen.map_as_taken, frame: null, outline: edgeOf(mesh), madeFor: null, touchUps: {} };
    }
    if (side === "now") return shownOf(bench.recipe, seen);
    return revision ? shownOf(revision.recipe, unpacked(revision.evaluation, revision.recipe)) : null;
  }, [bench, seen, side, revision]);
}

const shownOf = (recipe: Recipe, { mesh, map, frame, outline, made_for, touch_ups }: Seen): Shown => ({
  recipe, mesh, map, frame, outline, madeFor: made_for, touchUps: touch_ups,
});
