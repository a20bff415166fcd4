import { createContext, useContext } from "react";
import { useStore } from "zustand";

import type { Hands } from "./tools/hands";
import type { Scene } from "./view/surface";
import type { StageModel } from "./stageModel";

export const StageContext = createContext<StageModel | null>(null);

/** The stage around here: what it shows, and what the hand does on it. */
export function useStage(): StageModel {
  const stage = useContext(StageContext);
  if (!stage) throw new Error("there is no stage around this");
  return stage;
}

/** Something of what is drawn, as it changes. */
export const useScene = <T>(pick: (scene: Scene) => T): T => useStore(useStage().surface.scene, pick);

/** Something of what the hand holds, as it changes. */
export const useHands = <T>(pick: (hands: Hands) => T): T => useStore(useStage().hands, pick);
