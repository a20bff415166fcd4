import { useEffect, useLayoutEffect, useRef, useState } from "react";

import { useBench } from "../../session/benchStore";
import type { Mesh } from "../../session/mesh";
import { Renderer } from "./renderer";
import type { Size, View } from "../view/view";

const SIDES = [640, 1024, 2048];

interface Props {
  photoId: number;
  quarterTurns: number;
  mesh: Mesh;
  view: View;
  stage: Size;
  label: string;
}

/** The preview: one texture through the mesh, drawn on demand. */
export function Picture({ photoId, quarterTurns, mesh, view, stage, label }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const renderer = useRef<Renderer | null>(null);
  const [loaded, setLoaded] = useState({ count: 0, turns: -1 });
  const density = Math.min(2, window.devicePixelRatio || 1);
  const shownSide = Math.max(mesh.width, mesh.height) * view.scale * density;
  // The smallest texture that is sharp at this size: a much larger one would shimmer and cost more.
  const side = SIDES.find((one) => one >= shownSide * 0.8) ?? SIDES[SIDES.length - 1]!;

  useEffect(() => {
    try {
      renderer.current = new Renderer(canvas.current!);
    } catch (error) {
      useBench.setState({ notice: `The picture cannot be drawn: ${(error as Error).message}. Try another browser.` });
    }
    return () => {
      renderer.current = null;
    };
  }, []);

  useEffect(() => {
    const stop = new AbortController();
    const load = async () => {
      const answer = await fetch(`/api/photos/${photoId}/screen/${side}-${quarterTurns}.jpg`, { signal: stop.signal });
      if (!answer.ok) throw new Error("no picture");
      const picture = await createImageBitmap(await answer.blob());
      if (stop.signal.aborted) return;
      renderer.current?.setPicture(picture);
      picture.close();
      setLoaded((before) => ({ count: before.count + 1, turns: quarterTurns }));
    };
    load().catch(() => {
      if (!stop.signal.aborted)
        useBench.setState({ notice: "The screen picture could not be read; the original may be missing. Reload the page." });
    });
    return () => stop.abort();
  }, [photoId, quarterTurns, side]);

  useLayoutEffect(() => {
    if (loaded.turns !== quarterTurns) return;
    renderer.current?.draw(mesh, view, stage, density);
    performance.mark("sequor-drawn");
  }, [mesh, view, stage, density, loaded, quarterTurns]);

  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={label}
      data-drawn={loaded.count}
      style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
    />
  );
}
