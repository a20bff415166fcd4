import { Box } from "@chakra-ui/react";
import { memo, useMemo, useRef, useState } from "react";

import type { Recipe } from "../api/client";
import { AreasOverlay, AreaTargets } from "./layers/AreasOverlay";
import { withWidened } from "../session/areas";
import { SURROUNDS } from "../parts/theme";
import { baseNow, dropDraft, keep, layKindNow, laysLines, look, readNow, recipeNow, shownNow, useBench } from "../session/benchStore";
import { ComposeLines } from "./layers/ComposeLines";
import { FrameOverlay, HANDLES, handleAt } from "./layers/FrameOverlay";
import { FrameTargets } from "./layers/FrameTargets";
import { moveFrame, type Rect, resizeFrame, type Room } from "./tools/frameGeometry";
import { AdviceBand, ringOf } from "./layers/AdviceBand";
import { type DrawnLine, LinesOverlay, LineTargets } from "./layers/LinesOverlay";
import { EMPTY_HAND, type Hand, hit, letGo, partsOf, placeNext, showHand } from "./tools/lineHand";
import { useLineKeys } from "./tools/lineKeys";
import { Magnifier } from "./layers/Magnifier";
import { bentBetween, edgeOf, isBent, plainMesh, type Point, toCorrected, toPhoto } from "../session/mesh";
import { HeatOverlay } from "./layers/HeatOverlay";
import { Picture } from "./draw/Picture";
import { markOf, withRect, withSubject } from "../session/recipeEdits";
import { ScreenGrid } from "./layers/ScreenGrid";
import { useShortcuts } from "../shell/shortcuts";
import { pictureColour } from "./layers/signs";
import { StageControls } from "./StageControls";
import { StillLines } from "./layers/StillLines";
import { NewOverlay } from "./layers/NewOverlay";
import { SubjectMark, SubjectTarget } from "./layers/SubjectMark";
import { laidParts, sharpestAt } from "../session/takes";
import { TakesLayer } from "./layers/TakesLayer";
import { TouchLayer } from "./layers/TouchLayer";
import { laidOver } from "../session/touchUps";
import { usePencil } from "./tools/usePencil";
import { Tiles } from "./draw/Tiles";
import { usePinch } from "./view/usePinch";
import { useSize, useWheel } from "./view/useSize";
import { useEasedMesh, useStageView } from "./view/useStageView";
import { fromStage, toStage } from "./view/view";
import { middleBetween, wallsOf } from "../session/walls";

const DRAG_FROM = 4;
/** A click this near to the last point of a straight thing ends it. */
const ON_LAST = 10;
const TILES_FROM = 0.75;
const SIGMA = { mouse: 1, pen: 1, touch: 3 } as Record<string, number>;

interface FrameHand {
  rect: Rect;
  side: Point | null;
  from: Point;
  armed: boolean;
}

/** The subject being marked: two corners of its box, in photo pixels. */
interface Marking {
  from: Point;
  to: Point;
}

/** The picture with what is laid on it, and every way to lay, grab and move by pointer. */
export const Stage = memo(function Stage() {
  const state = useBench();
  const { bench, step, selected, pointed, shown, surround, magnifier } = state;
  const kind = layKindNow(state);
  const lays = laysLines(state);
  const recipe = recipeNow(state);
  const base = baseNow(state);
  const seen = shownNow(state);
  const box = useRef<HTMLDivElement>(null);
  const stage = useSize(box);
  const [hand, setHand] = useState<Hand>(EMPTY_HAND);
  const [frameHand, setFrameHand] = useState<FrameHand | null>(null);
  const [mark, setMark] = useState<Marking | null>(null);
  const [hover, setHover] = useState<Point | null>(null);
  const [controlsHeight, setControlsHeight] = useState(44);
  const foot = controlsHeight + 32;
  const [panning, setPanning] = useState(false);
  const pressed = useRef<{ at: Point; moved: boolean; sigma: number; body: boolean } | null>(null);

  const photo = recipe?.photo;
  const { columns, rows } = seen?.mesh ?? {};
  // As fine as the other, so that one eases into the other.
  const plain = useMemo(() => (photo ? plainMesh(photo.width, photo.height, columns, rows) : null), [photo?.width, photo?.height, columns, rows]); // eslint-disable-line react-hooks/exhaustive-deps
  const corrected = shown === "corrected";
  const led = state.draft !== null;
  const mesh = useEasedMesh(corrected ? (seen?.mesh ?? null) : plain, led && (state.draft?.follow ?? false));
  const stageView = useStageView(mesh, stage, foot, led, corrected && recipe?.frame.allow_empty ? recipe.frame.rect : null);
  const { view } = stageView;
  const drawing = step === "edges" && shown === "corrected" ? state.drawing : null;
  const pencil = usePencil(drawing, view, stage);
  const pinch = usePinch(stageView);
  useWheel(box, stageView, stage.width);
  useShortcuts(stageView);

  const stageOf = (point: Point) => toStage(view, stage, toCorrected(mesh!, point));
  const photoOf = (point: Point) => toPhoto(mesh!, fromStage(view, stage, point));
  // On the photo as taken, what is straight in the world runs along the lens's bend.
  const bend = !corrected && seen && isBent(seen.mesh) ? seen.mesh : null;
  const drawn = (points: readonly Point[], closed: boolean): Point[] | undefined =>
    bend ? partsOf(closed ? "rectangle" : "straight", points).flatMap(([a, b]) => bentBetween(bend, a, b).map(stageOf)) : undefined;
  const lines: DrawnLine[] =
    mesh && recipe && shown !== "before" && (step === "lines" || step === "lens")
      ? recipe.references
          .map((line, index) => ({ line, number: index + 1 }))
          .filter(({ line }) => step === "lines" || line.kind === "straight")
          .map(({ line, number }) => ({
            line,
            number,
            points: line.points.map(stageOf),
            along: drawn(line.points, line.kind === "rectangle"),
          }))
      : [];
  const advice = mesh && step === "lines" && shown !== "before" && !led ? seen?.advice : null;
  // A straight thing tells the lens; where it lies, a wall may still be measured, so it is not in the hand's way.
  const near = lines.filter(({ line }) => line.kind !== "straight" || kind === "straight" || line.id === selected);
  const pixelsPer = 1 / view.scale;
  const keys = useLineKeys({ mesh, view, stage, pan: stageView.pan });
  const outline = useMemo(() => (mesh ? edgeOf(mesh) : []), [mesh]);
  const frame: Rect | null = recipe?.frame.rect ?? (seen ? [seen.frame.x, seen.frame.y, seen.frame.width, seen.frame.height] : null);
  const room: Room | null = seen && recipe ? { outline: seen.outline, allowEmpty: recipe.frame.allow_empty || widens(state) } : null;
  const ratio = readNow(state)?.frame.shape ?? null;
  const frameShown = corrected && frame && mesh && seen;
  const onStage = ([x, y, width, height]: Rect): Rect => [...toStage(view, stage, [x, y]), width * view.scale, height * view.scale];
  const frameOnStage = frameShown ? onStage(frame) : null;
  const subject = mark && recipe ? markOf(recipe, mark.from, mark.to) : (recipe?.frame.subject ?? null);
  const framing = step === "frame" || widens(state);
  const composing = step === "frame" && frameOnStage !== null;
  const subjectOnStage = composing && subject && mesh ? cornersOf(subject).map(stageOf) : null;
  const walls = composing && recipe && mesh ? wallsOf(recipe, state.walls) : null;

  const outlineOnStage = seen ? seen.outline.map((point) => toStage(view, stage, point)) : [];
  const { takes, pointedTake } = state;
  const sharpest = sharpestAt(view.scale * Math.min(2, window.devicePixelRatio || 1));
  const laid =
    frameShown && bench && recipe && takes && recipe.edges.mode === "fill" && takes.made_for === seen.made_for && mesh === seen.mesh
      ? laidParts(recipe, takes, bench.photo.id, sharpest, pointedTake)
      : null;
  const over = frameShown && recipe ? laidOver(recipe, seen.touch_ups, state.touchTakes, sharpest, state.pointedTouch) : [];
  const areas = step === "edges" && corrected && recipe ? areasOf(recipe, state) : null;
  const left = frameShown && recipe?.edges.mode === "leave" ? recipe.edges.colour : null;

  const at = (event: React.PointerEvent): Point => {
    const place = box.current!.getBoundingClientRect();
    return [event.clientX - place.left, event.clientY - place.top];
  };

  const drop = () => {
    setHand(EMPTY_HAND);
    setFrameHand(null);
    setMark(null);
    pencil.drop();
    pressed.current = null;
    dropDraft();
  };

  const withFrame = widens(state) ? withWidened : withRect;
  const showFrame = (rect: Rect) => look((now) => withFrame(now, [...rect]), true);

  const frameFor = (held: FrameHand, point: Point): Rect => {
    const [dx, dy] = [(point[0] - held.from[0]) * pixelsPer, (point[1] - held.from[1]) * pixelsPer];
    if (!held.side) return moveFrame(held.rect, dx, dy, room!);
    return resizeFrame(held.rect, held.side, dx, dy, ratio, room!);
  };

  const onPointerDown = (event: React.PointerEvent) => {
    if (!mesh || !recipe || !bench || (event.target as Element).closest("[data-controls]")) return;
    if (pinch.down(event)) return drop();
    box.current!.setPointerCapture(event.pointerId);
    const point = at(event);
    const sigma = Math.max(0.2, (SIGMA[event.pointerType] ?? 1) * pixelsPer);
    pressed.current = { at: point, moved: false, sigma, body: false };
    if (event.button === 1 || event.altKey || shown === "before" || !(lays || framing || drawing)) return setPanning(true);
    if (event.button !== 0) return;
    if (drawing) return pencil.down(point);
    if (lays) return startLine(point);
    if (state.marking) return setMark({ from: photoOf(point), to: photoOf(point) });
    if (frameOnStage && frame) startFrame(point);
  };

  const startLine = (point: Point) => {
    const onPhoto = photoOf(point);
    if (hand.doing !== "nothing" && hand.armed) {
      setHand({ ...hand, to: onPhoto });
      return;
    }
    const found = hit(near, point);
    if (found) {
      pressed.current!.body = found.body;
      useBench.setState({ selected: found.hold.line.id });
      setHand({ doing: "moving", hold: found.hold, from: onPhoto, to: onPhoto, armed: false });
    } else {
      setHand({ doing: "laying", placed: [onPhoto], to: onPhoto, armed: false });
    }
  };

  const startFrame = (point: Point) => {
    if (frameHand?.armed) return;
    const handle = HANDLES.find(({ side }) => {
      const [x, y] = handleAt(frameOnStage!, side);
      return Math.hypot(point[0] - x, point[1] - y) <= 20;
    });
    const [x, y, width, height] = frameOnStage!;
    const inside = point[0] > x && point[0] < x + width && point[1] > y && point[1] < y + height;
    if (handle || inside) setFrameHand({ rect: frame!, side: handle?.side ?? null, from: point, armed: false });
    else setPanning(true);
  };

  const onPointerMove = (event: React.PointerEvent) => {
    if (!mesh || !base) return;
    if (pinch.move(event)) return;
    const point = at(event);
    const onControls = (event.target as Element).closest("[data-controls]") !== null;
    setHover(onControls ? null : point);
    if (!pressed.current && hand.doing === "nothing" && lays) pointAt(onControls ? null : (hit(near, point)?.hold.line.id ?? null));
    const press = pressed.current;
    if (press && Math.hypot(point[0] - press.at[0], point[1] - press.at[1]) >= DRAG_FROM) press.moved = true;
    if (panning) {
      stageView.pan(event.movementX, event.movementY);
    } else if (pencil.drawn) {
      pencil.move(point, press?.moved ?? false);
    } else if (mark) {
      if (press?.moved) setMark({ ...mark, to: photoOf(point) });
    } else if (frameHand && (frameHand.armed || press?.moved)) {
      showFrame(frameFor(frameHand, point));
    } else if (hand.doing !== "nothing" && (hand.armed || press?.moved)) {
      const next = { ...hand, to: photoOf(point) };
      setHand(next);
      showHand(base, next, kind, press?.sigma ?? pixelsPer);
    }
  };

  const onPointerUp = (event: React.PointerEvent) => {
    pinch.up(event);
    const press = pressed.current;
    pressed.current = null;
    if (panning) return setPanning(false);
    if (!press || !base) return;
    const point = at(event);
    if (pencil.drawn) return pencil.up(point, press.moved);
    if (mark) return endMark(press.moved ? { ...mark, to: photoOf(point) } : mark);
    if (frameHand) return endFrame(frameHand, press.moved, point);
    if (hand.doing === "nothing") return;
    const here = photoOf(point);
    let next: Hand = { ...hand, to: here };
    if (!hand.armed && !press.moved) {
      // A click: an end or a number is picked up, a new line waits for its next click, a body is only selected.
      setHand(press.body ? EMPTY_HAND : { ...next, armed: true });
      return;
    }
    if (hand.doing === "laying" && hand.armed) {
      const last = stageOf(hand.placed[hand.placed.length - 1]!);
      const placed = placeNext(kind, hand.placed, here, Math.hypot(point[0] - last[0], point[1] - last[1]) <= ON_LAST);
      if (!placed.whole) return setHand({ ...hand, placed: placed.points, to: here });
      next = { ...hand, placed: placed.points.slice(0, -1), to: placed.points[placed.points.length - 1]! };
    }
    setHand(EMPTY_HAND);
    const id = letGo(base, next, kind, press.sigma);
    if (id) useBench.setState({ selected: id });
  };

  const endMark = ({ from, to }: Marking) => {
    setMark(null);
    useBench.setState({ marking: false });
    void keep((now) => withSubject(now, markOf(now, from, to)), "Marked the subject");
  };

  const endFrame = (held: FrameHand, moved: boolean, point: Point) => {
    if (!held.armed && !moved) return setFrameHand({ ...held, armed: true });
    setFrameHand(null);
    const rect = frameFor(held, point);
    const changed = rect.some((value, index) => Math.abs(value - held.rect[index]!) > 1e-6);
    if (!changed) return dropDraft();
    void keep((now) => withFrame(now, [...rect]), held.side ? (widens(state) ? "Drew the frame out" : "Resized the frame") : "Moved the frame");
  };

  const print = seen?.frame.printed;
  const printed: Rect | null = print?.cut_words && frame ? [frame[0] + print.shown[0], frame[1] + print.shown[1], print.shown[2], print.shown[3]] : null;
  const placing: Point | null =
    keys.cursor ?? (hover && mesh && lays && (shown !== "before" || hand.doing !== "nothing") ? photoOf(hover) : null);
  const magnified = magnifier && lays && placing && mesh && seen && !panning && inPhoto(placing, photo);
  const map = seen ? (corrected ? seen.map : seen.map_as_taken) : "";
  const tiles = mesh && seen && !led && view.scale >= TILES_FROM && mesh === (corrected ? seen.mesh : plain);
  const ghost = led && !state.draft?.follow && corrected && state.glimpse ? state.glimpse.outline : null;
  const laying: Point[] | null = keys.laid ?? (hand.doing === "laying" && !state.draft ? [...hand.placed, hand.to].map(stageOf) : null);

  return (
    <Box
      ref={box}
      position="relative"
      flex="1"
      minH={0}
      overflow="hidden"
      style={{ background: SURROUNDS[surround], touchAction: "none", cursor: cursorFor(lays || drawing !== null || (composing && state.marking), panning, hand) }}
      role="application"
      aria-label={`Stage: the picture. Enter ${drawing ? "marks an area in its middle" : "lays a line by keys"}.`}
      tabIndex={0}
      _focusVisible={{ outlineOffset: "-4px" }}
      data-stage
      data-scale={view.scale}
      data-middle={`${view.x} ${view.y}`}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={(event) => {
        pinch.up(event);
        drop();
        setPanning(false);
      }}
      onPointerLeave={() => {
        setHover(null);
        pointAt(null);
      }}
      onKeyDown={(event) => {
        if (event.key === "Escape" && (hand.doing !== "nothing" || frameHand || mark || pencil.drawn)) drop();
        else if (event.key === "Enter" && pencil.drawn) pencil.finish();
        else if (event.key === "Enter" && drawing && event.target === event.currentTarget) pencil.inTheMiddle();
        else if (event.key === "Escape" && drawing) useBench.setState({ drawing: null });
        else if (event.key === "Escape" && state.marking) useBench.setState({ marking: false });
        else if (event.target === event.currentTarget) keys.onStageKey(event);
      }}
    >
      {left && frameOnStage && <Left rect={frameOnStage} colour={left} />}
      {laid && frame && <TakesLayer laid={laid} frame={{ x: frame[0], y: frame[1], width: frame[2], height: frame[3] }} view={view} stage={stage} />}
      {mesh && bench && (
        <Picture
          photoId={bench.photo.id}
          quarterTurns={recipe!.photo.quarter_turns}
          mesh={mesh}
          view={view}
          stage={stage}
          label={`${bench.photo.title}, ${corrected ? "as corrected" : "as taken"}`}
        />
      )}
      {tiles && <Tiles photoId={bench!.photo.id} map={map} view={view} stage={stage} outline={corrected ? seen.outline : outline} />}
      {over.length > 0 && <TouchLayer over={over} frame={seen!.frame} view={view} stage={stage} />}
      {state.heat && step === "edges" && corrected && <HeatOverlay heat={state.heat} view={view} stage={stage} />}
      {ghost && <Ghost outline={ghost.map((point) => toStage(view, stage, point))} />}
      {frameOnStage && (
        <FrameOverlay
          rect={frameOnStage}
          stage={stage}
          surround={surround}
          held={framing}
          veil={state.veil}
          outline={recipe!.frame.allow_empty && !laid && !left ? outlineOnStage : null}
          printed={step === "frame" && printed ? onStage(printed) : null}
        />
      )}
      {laid && state.showNew && frameOnStage && (step === "edges" || step === "export") && <NewOverlay rect={frameOnStage} outline={outlineOnStage} />}
      {composing && (
        <ComposeLines
          rect={frameOnStage}
          families={state.families}
          spiral={state.spiral}
          between={walls ? toStage(view, stage, [middleBetween(mesh!, walls), 0])[0] : null}
          subject={subjectOnStage ? boxAbout(subjectOnStage) : null}
          scale={view.scale}
        />
      )}
      {subjectOnStage && <SubjectMark corners={subjectOnStage} />}
      <ScreenGrid grid={state.grids[step]} stage={stage} />
      <StillLines stage={stage} view={view} />
      {advice && <AdviceBand ring={ringOf(advice.band).map(stageOf)} kind={advice.kind} />}
      <LinesOverlay lines={lines} selected={selected} pointed={pointed} laid={laying} />
      <LineTargets lines={lines} onFocus={(id) => useBench.setState({ selected: id })} onKey={keys.onLineKey} />
      {framing && frameOnStage && <FrameTargets onStage={frameOnStage} frame={frame!} room={room!} ratio={ratio} change={withFrame} />}
      {areas && (
        <>
          <AreasOverlay {...areas} selected={state.area} drawn={pencil.drawn} toStage={(point) => toStage(view, stage, point)} scale={view.scale} />
          <AreaTargets {...areas} toStage={(point) => toStage(view, stage, point)} onFocus={(id) => useBench.setState({ area: id })} />
        </>
      )}
      {subjectOnStage && <SubjectTarget corners={subjectOnStage} />}
      {magnified && (
        <Magnifier
          photoId={bench!.photo.id}
          map={map}
          at={toCorrected(mesh, placing)}
          onStage={stageOf(placing)}
          onPhoto={placing}
          stage={stage}
          colour={pictureColour(kind)}
        />
      )}
      <StageControls
        scale={view.scale}
        fitted={stageView.fitted}
        fit={stageView.fit}
        zoomTo={stageView.zoomTo}
        onHeight={setControlsHeight}
      />
    </Box>
  );
});

/** Whether the frame is drawn out beyond the picture by hand. */
const widens = ({ step, edgesPage }: { step: string; edgesPage: string }): boolean => step === "edges" && edgesPage === "widen";

/** The areas that the open page of the step Edges speaks of. */
function areasOf(recipe: Recipe, { edgesPage }: { edgesPage: string }) {
  const { touch_ups, donors } = recipe.edges;
  return {
    touchUps: edgesPage === "touch up" ? touch_ups.filter(({ active }) => active) : [],
    donors: edgesPage === "donors" || edgesPage === "touch up" ? donors : [],
  };
}

/** The corners of a subject mark in photo pixels, one for a point. */
function cornersOf([x, y, width = 0, height = 0]: NonNullable<Recipe["frame"]["subject"]>): Point[] {
  if (!width && !height) return [[x, y]];
  return [[x, y], [x + width, y], [x + width, y + height], [x, y + height]];
}

function boxAbout(corners: readonly Point[]): Rect {
  const [xs, ys] = [corners.map(([x]) => x), corners.map(([, y]) => y)];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  return [left, top, Math.max(...xs) - left, Math.max(...ys) - top];
}

/** Light up a line, on the picture and in the field book. */
function pointAt(id: string | null) {
  if (useBench.getState().pointed !== id) useBench.setState({ pointed: id });
}

/** The frame in the colour that its empty corners are left in, under the picture. */
function Left({ rect: [x, y, width, height], colour }: { rect: Rect; colour: string }) {
  return <div aria-hidden="true" data-left style={{ position: "absolute", transform: `translate(${x}px, ${y}px)`, width, height, background: colour }} />;
}

function Ghost({ outline }: { outline: Point[] }) {
  const path = `M${outline.map((point) => point.join(" ")).join("L")}Z`;
  return (
    <svg data-ghost aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      <path d={path} fill="none" stroke="#22252a" strokeWidth={3} strokeDasharray="10 6" />
      <path d={path} fill="none" stroke="#ffffff" strokeWidth={1.4} strokeDasharray="10 6" />
    </svg>
  );
}

function inPhoto([x, y]: Point, photo?: { width: number; height: number }): boolean {
  return !!photo && x >= 0 && y >= 0 && x <= photo.width && y <= photo.height;
}

function cursorFor(lays: boolean, panning: boolean, hand: Hand): string {
  if (panning) return "grabbing";
  if (hand.doing === "moving") return "move";
  return lays ? "crosshair" : "default";
}
