import { useEffect, useRef, useState } from "react";
import type { StoreApi } from "zustand/vanilla";

import type { Recipe } from "../../api/client";
import { useSession } from "../../session/useSession";
import type { Scene } from "../view/surface";
import { Renderer } from "./renderer";
import { wideScreen } from "./wideScreen";

const SIDES = [640, 1024, 2048];
const LARGEST = 2048;

interface Props {
  scene: Pick<StoreApi<Scene>, "getState" | "subscribe">;
  quarterTurns: number;
  develop: Recipe["develop"];
  label: string;
}

const density = () => Math.min(2, window.devicePixelRatio || 1);

/** The smallest texture that is sharp as it is shown: a much larger one would shimmer and cost more. */
function sideFor({ mesh, view }: Scene): number {
  const shown = mesh ? Math.max(mesh.width, mesh.height) * view.scale * density() : 0;
  return SIDES.find((one) => one >= shown * 0.8) ?? LARGEST;
}

/** The preview: one texture through the mesh, drawn in the moment the scene changes and not by React. */
export function Picture({ scene, quarterTurns, develop, label }: Props) {
  const session = useSession();
  const canvas = useRef<HTMLCanvasElement>(null);
  const renderer = useRef<Renderer | null>(null);
  const loaded = useRef(-1);
  const [side, setSide] = useState(() => sideFor(scene.getState()));
  const asked = [...(wideScreen() ? ["wide"] : []), ...(develop ? [`develop=${encodeURIComponent(JSON.stringify(develop))}`] : [])].join("&");

  useEffect(() => {
    const surface = canvas.current;
    if (!surface) return;
    const draw = () => {
      const now = scene.getState();
      setSide(sideFor(now));
      if (!now.mesh || !renderer.current || now.size.width === 0 || loaded.current < 0) return;
      renderer.current.draw(now.mesh, now.view, now.size, density());
      performance.mark("sequor-drawn");
    };
    try {
      renderer.current = new Renderer(surface, draw);
    } catch (error) {
      session.tell(`The picture cannot be drawn: ${(error as Error).message}. Try another browser.`);
    }
    const end = scene.subscribe(draw);
    return () => {
      end();
      renderer.current?.dispose();
      renderer.current = null;
    };
  }, [scene, session]);

  useEffect(() => {
    const stop = new AbortController();
    const load = async () => {
      const answer = await fetch(`/api/photos/${session.photo}/screen/${side}-${quarterTurns}.jpg${asked && `?${asked}`}`, { signal: stop.signal });
      if (!answer.ok) throw new Error("no picture");
      const picture = await createImageBitmap(await answer.blob());
      if (stop.signal.aborted) return;
      loaded.current = quarterTurns;
      renderer.current?.setPicture(picture);
      if (canvas.current) canvas.current.dataset.drawn = String(Number(canvas.current.dataset.drawn ?? 0) + 1);
    };
    load().catch(() => {
      if (!stop.signal.aborted) session.tell("The screen picture could not be read; the original may be missing. Reload the page.");
    });
    return () => {
      stop.abort();
    };
  }, [session, quarterTurns, side, asked]);

  useEffect(
    () => () => {
      // Turned, the texture from before does not fit the mesh any more.
      loaded.current = -1;
    },
    [quarterTurns],
  );

  return <canvas ref={canvas} role="img" aria-label={label} data-drawn={0} style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />;
}
