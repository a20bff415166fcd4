import { recipeNow } from "../../session/session";
import { useSession } from "../../session/useSession";
import { arrowStep } from "../tools/hands";
import type { Point } from "../../session/mesh";
import { INK, LIGHT } from "../../parts/theme";

/** The subject mark: the corners of its box on the stage, or one point. */
export function subjectMark(corners: readonly Point[]) {
  const [x, y] = middleOf(corners);
  const box = corners.length > 1 ? `M${corners.map((corner) => corner.join(" ")).join("L")}Z` : "";
  return (
    <svg data-subject aria-hidden="true" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}>
      {[
        [INK, 5] as const,
        [LIGHT, 2] as const,
      ].map(([stroke, strokeWidth]) => (
        <g key={stroke} stroke={stroke} strokeWidth={strokeWidth} fill="none">
          {box ? <path d={box} strokeDasharray={strokeWidth === 2 ? "2 5" : undefined} strokeLinecap="round" /> : <circle cx={x} cy={y} r={15} />}
          <path d={`M${x - 5} ${y}h10M${x} ${y - 5}v10`} />
        </g>
      ))}
      <text x={x} y={y + (box ? 24 : 34)} textAnchor="middle" fontSize={13} fill={LIGHT} stroke={INK} strokeWidth={4} paintOrder="stroke">
        Subject
      </text>
    </svg>
  );
}

/** The mark as a focusable element: the arrow keys move it. */
export function SubjectTarget({ corners }: { corners: readonly Point[] }) {
  const session = useSession();
  const [x, y] = middleOf(corners);
  const press = (event: React.KeyboardEvent) => {
    const move = arrowStep(event);
    const recipe = recipeNow(session.known.getState());
    const subject = recipe?.frame.subject;
    if (!move || !recipe || !subject) return;
    event.preventDefault();
    event.stopPropagation();
    const { width, height } = recipe.photo;
    const [left, top, wide = 0, high = 0] = subject;
    const [a, b] = [Math.min(Math.max(left + move[0], 0), width - wide), Math.min(Math.max(top + move[1], 0), height - high)];
    session.doSoon({ do: "subject", mark: [[a, b], [a + wide, b + high]] }, false);
  };
  return (
    <button
      type="button"
      aria-label="Subject mark"
      aria-description="Arrow keys move it"
      onKeyDown={press}
      style={{ position: "absolute", left: 0, top: 0, width: 40, height: 40, borderRadius: 20, background: "none", pointerEvents: "none", transform: `translate(${x - 20}px, ${y - 20}px)` }}
    />
  );
}

export function middleOf(corners: readonly Point[]): Point {
  const mean = (k: 0 | 1) => corners.reduce((sum, corner) => sum + corner[k], 0) / corners.length;
  return [mean(0), mean(1)];
}
