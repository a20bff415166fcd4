import { Box, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { api, type Recipe, type Revision, type Version } from "../api/client";
import { type Comparison, type Seen, type Side, unpacked, useBench } from "../session/benchStore";
import { FrameOverlay } from "../stage/layers/FrameOverlay";
import { edgeOf, type Mesh, plainMesh } from "../session/mesh";
import { Picture } from "../stage/draw/Picture";
import { Tiles } from "../stage/draw/Tiles";
import { numbered, useRevisions, useVersions } from "../api/useLog";
import { usePinch } from "../stage/view/usePinch";
import { useHeight, useSize, useWheel } from "../stage/view/useSize";
import { useStageView } from "../stage/view/useStageView";
import { listedParts, sharpestAt } from "../session/takes";
import { TouchLayer } from "../stage/layers/TouchLayer";
import { laidOver } from "../session/touchUps";
import { TakesLayer } from "../stage/layers/TakesLayer";
import { type Size, toStage, type View } from "../stage/view/view";
import { SURROUNDS } from "../parts/theme";
import { Choice, Touch } from "../parts/Touch";
import { flip, stopComparing } from "../session/comparing";

const TILES_FROM = 0.75;
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
  const comparison = useBench((state) => state.comparison);
  const surround = useBench((state) => state.surround);
  const box = useRef<HTMLDivElement>(null);
  const stage = useSize(box);
  const [split, setSplit] = useState(0.5);
  const [foot, setFoot] = useState(44);
  const left = useSide(comparison?.left ?? "before");
  const right = useSide(comparison?.right ?? "now");
  const states: States = { revisions: useRevisions(), versions: useVersions() };
  const sided = comparison?.way === "side by side";
  const pane: Size = useMemo(
    () => (sided ? { width: stage.width / 2, height: stage.height } : stage),
    [sided, stage],
  );
  const stageView = useStageView(right?.mesh ?? null, pane, foot + 32, false, right?.recipe.frame.allow_empty ? right.recipe.frame.rect : null);
  const { view } = stageView;
  const pinch = usePinch(stageView);

  useWheel(box, stageView, pane.width);

  const onKey = useCallback(
    (event: KeyboardEvent) => {
      if ((event.target as Element).matches("input, select") || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "Escape") stopComparing();
      else if (!useBench.getState().shortcuts) return;
      else if (event.key === "b") flip();
      else if (event.key === "f") stageView.fit();
      else if (event.key === "1" || event.key === "2") stageView.zoomTo(Number(event.key));
      else if (event.key === "+") stageView.zoomBy(1.25);
      else if (event.key === "-") stageView.zoomBy(0.8);
      else return;
      event.preventDefault();
    },
    [stageView],
  );
  useEffect(() => {
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, [onKey]);

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
      onPointerUp={pinch.up}
      onPointerCancel={pinch.up}
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
          {side && <Pane side={side} view={view} stage={pane} name={name} />}
          <Box data-title position="absolute" top="8px" left={clip ? undefined : "12px"} right={clip ? "12px" : undefined} px="8px" py="2px" borderRadius="4px" bg="ink" color="touch" fontSize="13px">
            {titleOf(name === "left" ? comparison.left : comparison.right, states)}
          </Box>
        </div>
      ))}
      {way === "side by side" && <Box position="absolute" left={`${pane.width - 1}px`} top={0} bottom={0} w="2px" bg="ink" />}
      {way === "wipe" && <Divider split={split} onSplit={setSplit} width={stage.width} />}
      <Controls comparison={comparison} states={states} view={stageView} onHeight={setFoot} />
    </Box>
  );
}

function titleOf(side: Side, { revisions, versions }: States): string {
  if (side === "before") return "before, as taken";
  const version = versions.find(({ revision }) => revision === side);
  if (version) return version.name;
  const at = revisions.findIndex(({ id }) => id === side);
  return side === "now" || at < 0 ? "now" : numbered(revisions[at]!);
}

function Pane({ side, view, stage, name }: { side: Shown; view: View; stage: Size; name: string }) {
  const id = useBench((state) => state.bench!.photo.id);
  const surround = useBench((state) => state.surround);
  const veil = useBench((state) => state.veil);
  const { mesh, frame, map, outline, recipe, madeFor, touchUps } = side;
  const over = frame ? laidOver(recipe, touchUps, {}, sharpestAt(view.scale), null) : [];
  const laid = frame && madeFor ? listedParts(recipe, madeFor, sharpestAt(view.scale)) : null;
  const [x, y] = frame ? toStage(view, stage, [frame.x, frame.y]) : [0, 0];
  return (
    <>
      {laid && frame && <TakesLayer laid={laid} frame={frame} view={view} stage={stage} />}
      <Picture photoId={id} quarterTurns={recipe.photo.quarter_turns} mesh={mesh} view={view} stage={stage} label={`The ${name} picture`} />
      {view.scale >= TILES_FROM && <Tiles photoId={id} map={map} view={view} stage={stage} outline={outline} />}
      {frame && over.length > 0 && <TouchLayer over={over} frame={frame} view={view} stage={stage} />}
      {frame && (
        <FrameOverlay
          rect={[x, y, frame.width * view.scale, frame.height * view.scale]}
          stage={stage}
          surround={surround}
          held={false}
          veil={veil}
          outline={recipe.frame.allow_empty && !laid ? outline.map((point) => toStage(view, stage, point)) : null}
          printed={null}
        />
      )}
    </>
  );
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
      aria-label="Where the left picture ends"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(split * 100)}
      aria-valuetext={`${Math.round(split * 100)} per cent`}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const place = event.currentTarget.closest("[data-compare]")!.getBoundingClientRect();
        set((event.clientX - place.left) / place.width);
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
        <path d="M20 0V4000" stroke="#22252a" strokeWidth={4} />
        <path d="M20 0V4000" stroke="#ffffff" strokeWidth={1.4} />
      </svg>
      <Box position="absolute" top="50%" left="8px" w="24px" h="48px" mt="-24px" bg="ink" borderRadius="4px" />
    </div>
  );
}

interface ControlsProps {
  comparison: Comparison;
  states: States;
  view: ReturnType<typeof useStageView>;
  onHeight: (height: number) => void;
}

const small = { fontSize: "13px", px: "10px" };

/** Which two pictures, in which way, how near; and the way back to the work. */
function Controls({ comparison, states, view, onHeight }: ControlsProps) {
  const row = useHeight(onHeight);
  const set = (changes: Partial<Comparison>) => useBench.setState({ comparison: { ...comparison, ...changes } });
  const { way, flipped } = comparison;
  return (
    <Flex ref={row} data-controls position="absolute" left="12px" right="12px" bottom="10px" wrap="wrap" justify="space-between" gap="6px">
      <Flex gap="6px" wrap="wrap">
        <SidePicker name="Left" side={comparison.left} states={states} onPick={(left) => set({ left })} />
        <SidePicker name="Right" side={comparison.right} states={states} onPick={(right) => set({ right })} />
        <Flex role="group" aria-label="Way of comparing">
          {WAYS.map((one) => (
            <Touch key={one} {...small} aria-pressed={way === one} onClick={() => set({ way: one })}>
              {one[0]!.toUpperCase() + one.slice(1)}
            </Touch>
          ))}
        </Flex>
        {way === "flick" && (
          <Touch {...small} aria-pressed={flipped} onClick={flip}>
            {flipped ? "Left shown" : "Right shown"}
          </Touch>
        )}
      </Flex>
      <Flex gap="6px" wrap="wrap">
        <Touch {...small} aria-pressed={view.fitted} onClick={view.fit}>
          Fit
        </Touch>
        <Touch {...small} onClick={() => view.zoomTo(1)}>
          100 %
        </Touch>
        <Touch {...small} onClick={() => view.zoomTo(2)}>
          200 %
        </Touch>
        <Touch {...small} border="2px solid" borderColor="ink" onClick={stopComparing}>
          Back to work
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
      <option value="before">before, as taken</option>
      <option value="now">now</option>
      {states.versions.length > 0 && (
        <optgroup label="Versions">
          {states.versions.map((one) => (
            <option key={one.id} value={one.revision}>
              {one.name}
            </option>
          ))}
        </optgroup>
      )}
      <optgroup label="Log">
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
  const bench = useBench((state) => state.bench);
  const seen = useBench((state) => state.seen);
  const wanted = typeof side === "number" ? side : null;
  const revision = useQuery({
    queryKey: ["revision", bench?.photo.id, wanted],
    queryFn: () => api.revision(bench!.photo.id, wanted!),
    enabled: wanted !== null && bench !== null,
    staleTime: Infinity,
  });
  return useMemo(() => {
    if (!bench || !seen) return null;
    if (side === "before") {
      const mesh = plainMesh(bench.recipe.photo.width, bench.recipe.photo.height, seen.mesh.columns, seen.mesh.rows);
      return { recipe: bench.recipe, mesh, map: seen.map_as_taken, frame: null, outline: edgeOf(mesh), madeFor: null, touchUps: {} };
    }
    const [recipe, shown] = side === "now" ? [bench.recipe, seen] : [revision.data?.recipe, revision.data && unpacked(revision.data.evaluation, revision.data.recipe)];
    return recipe && shown ? { recipe, mesh: shown.mesh, map: shown.map, frame: shown.frame, outline: shown.outline, madeFor: shown.made_for, touchUps: shown.touch_ups } : null;
  }, [bench, seen, side, revision.data]);
}
