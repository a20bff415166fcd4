import { useMemo, useState } from "react";

import type { Action, Lens, Recipe } from "../../api/client";
import { LIMITS } from "../../api/limits";
import { deleteLine } from "../../session/desk";
import { baseNow, readNow, recipeNow } from "../../session/session";
import type { LensPage } from "../../session/model";
import { useDesk, useKnown, useSession } from "../../session/useSession";
import { handTerm } from "../../session/notes";
import { kindSign } from "../../stage/layers/signs";
import { Among } from "../../parts/Among";
import { NumberField } from "../../parts/NumberField";
import { later } from "../../parts/later";
import { Touch } from "../../parts/Touch";
import { TypedForm } from "../../parts/TypedForm";
import { Vernier } from "../../parts/Vernier";
import { Live } from "../../stage/Live";
import { StillPanel } from "../StillPanel";
import { useLed } from "../useLed";
import { useProfiles } from "../../api/queries";
import { RawPhoto } from "./RawPhoto";

const WidePage = later(() => import("./WidePage").then(({ WidePage }) => WidePage));

/** Per cent by which the hand may move the photo's corner. */
const [, RANGE] = LIMITS["bend.percent"];
const NOTHING = { lens: { source: "none" } } as Recipe;

const PAGES: { page: LensPage; label: string }[] = [
  { page: "distortion", label: "Distortion" },
  { page: "wide", label: "Wide view" },
];

/** What the step Lens needs, on two pages: what takes the bending out; how wide the picture looks. */
export function LensStep() {
  const session = useSession();
  const page = useDesk((desk) => desk.lensPage);
  const ready = useKnown(({ seen }) => seen !== null);
  if (!ready) return null;
  return (
    <>
      <div className="row" role="group" aria-label="Pages of the step Lens" style={{ margin: "2px 16px 0", flex: "none" }}>
        {PAGES.map((one) => (
          <Touch key={one.page} flex="1" px="2px" fontSize="0.8125rem" aria-pressed={page === one.page} onClick={() => session.desk.setState({ lensPage: one.page })}>
            {one.label}
          </Touch>
        ))}
      </div>
      <div data-lens-step className="leaf">
        {page === "wide" ? <WidePage /> : <Distortion />}
      </div>
    </>
  );
}

/** What takes the bending out, and that one's own controls. */
function Distortion() {
  const session = useSession();
  const recipe = useKnown(baseNow);
  const read = useKnown(({ seen }) => seen);
  const [searching, setSearching] = useState(false);
  if (!recipe || !read) return null;
  const { source } = recipe.lens;
  const fisheye = recipe.lens.focal_px !== null;
  const choices = [
    { name: "Off", chosen: source === "none" && !searching, take: () => source !== "none" && void session.do({ do: "lens", source: "none" }) },
    { name: "Profile", chosen: source === "profile" || searching, take: () => setSearching(true) },
    {
      name: "By hand",
      chosen: source === "manual" && !fisheye,
      take: () => (source !== "manual" || fisheye) && void session.do({ do: "lens", source: "manual" }),
    },
    {
      name: "Straight edges",
      chosen: source === "straight",
      take: () => source !== "straight" && void session.do({ do: "lens", source: "straight" }),
    },
    {
      name: "Fisheye",
      chosen: fisheye && source === "manual",
      take: () => !(fisheye && source === "manual") && void session.do({ do: "fisheye", law: "equisolid" }),
    },
  ];
  const showsProfiles = searching || source === "profile";
  return (
    <>
      <h2 style={{ fontWeight: 700 }}>
        Lens distortion
      </h2>
      <div data-bending style={{ fontSize: "0.8125rem", color: "var(--chakra-colors-second)" }}>
        <Live of={(known) => readNow(known)?.lens.bending} />
      </div>
      <div className="row" role="group" aria-label="How to correct it" style={{ marginTop: 8, gap: 5, flexWrap: "wrap" }}>
        {choices.map(({ name, chosen, take }) => (
          <Touch
            key={name}
            flex="1 1 auto"
            px="6px"
            fontSize="0.8125rem"
            aria-pressed={chosen}
            onClick={() => {
              setSearching(false);
              take();
            }}
          >
            {name}
          </Touch>
        ))}
      </div>
      <div style={{ marginTop: 14 }}>
        {showsProfiles && <Profiles taken={recipe.lens} onTaken={() => setSearching(false)} />}
        {!showsProfiles && source === "manual" && (fisheye ? <Fisheye lens={recipe.lens} /> : <ByHand />)}
        {!showsProfiles && source === "straight" && <StraightThings recipe={recipe} />}
        {!showsProfiles && source === "none" && (
          <div style={{ color: "var(--chakra-colors-second)", fontSize: "0.8125rem" }}>
            Correct distortion before you draw any line: with the lens profile if there is one, by hand against a grid, or from
            something in the picture that must be straight.
          </div>
        )}
      </div>
      <RawPhoto />
    </>
  );
}

const called = (lens: Lens) => lens.profile?.lens ?? "";

/** The profiles that match, or those that are searched for by name. */
function Profiles({ taken, onTaken }: { taken: Lens; onTaken: () => void }) {
  const session = useSession();
  const [words, setWords] = useState("");
  const matched = useProfiles(session.photo, "");
  const searched = useProfiles(session.photo, words);
  const found = words ? searched : matched;
  const known = found.data?.profiles ?? [];
  const mine = (lens: Lens) => taken.source === "profile" && called(lens) === called(taken) && lens.unit_px === taken.unit_px;
  const elsewhere = taken.source === "profile" && !known.some(mine);
  return (
    <>
      <div className="row" style={{ justifyContent: "space-between", alignItems: "baseline" }}>
        <h2 style={{ fontWeight: 700 }}>
          Profile
        </h2>
        <div style={{ fontSize: "0.8125rem", color: "var(--chakra-colors-second)" }}>
          {words ? "by name" : found.data?.sure ? "found from the photo's data" : known.length ? "choose your lens" : ""}
        </div>
      </div>
      {found.data?.reason && (
        <div role="status" style={{ marginTop: 4, fontSize: "0.8125rem" }}>
          No profile found: {found.data.reason}. Search for your lens by name, correct by hand, or use straight edges.
        </div>
      )}
      <ul style={{ margin: 0, padding: 0, marginTop: 6, maxHeight: 260, overflowY: "auto", borderTop: known.length || elsewhere ? "1px solid" : undefined, borderColor: "var(--chakra-colors-rule)" }}>
        {[...(elsewhere ? [taken] : []), ...known].map((lens) => (
          <li key={`${called(lens)} ${JSON.stringify(lens.profile?.terms)}`} style={{ listStyleType: "none", borderBottom: "1px solid", borderColor: "var(--chakra-colors-rule)", paddingBlock: 4 }}>
            <Touch
              w="100%"
              justifyContent="flex-start"
              textAlign="left"
              whiteSpace="normal"
              py="4px"
              fontSize="0.8125rem"
              aria-pressed={mine(lens) || (elsewhere && lens === taken)}
              onClick={() => {
                onTaken();
                if (!mine(lens)) void session.do({ do: "lens", source: "profile", profile: lens });
              }}
            >
              <div>
                {called(lens)}
                <span style={{ display: "block", fontSize: "0.75rem", color: "var(--chakra-colors-second)", fontWeight: 400 }}>
                  at {lens.profile?.focal_mm} mm on {lens.profile?.camera}
                </span>
              </div>
            </Touch>
          </li>
        ))}
      </ul>
      <TypedForm label="Lens name" placeholder="Lens name" take="Search" onTake={setWords} />
    </>
  );
}

const LAWS = [
  ["equisolid", "equal area (most fisheyes)"],
  ["equidistant", "equal angles"],
  ["stereographic", "stereographic"],
  ["orthographic", "orthographic"],
] as const;

/** A fisheye without a profile: how its lens draws, and its focal length. */
function Fisheye({ lens }: { lens: Lens }) {
  const session = useSession();
  const equivalent = useKnown((known) => known.seen?.focal.equivalent_mm ?? 0);
  const law = LAWS.find(([one]) => one === lens.model)?.[0] ?? "equisolid";
  const [least, most] = LIMITS["fisheye.equivalent_mm"];
  return (
    <>
      <div style={{ fontSize: "0.8125rem", color: "var(--chakra-colors-second)", marginBottom: 8 }}>
        How the lens draws, and its focal length. A straight edge near the border, drawn under Lines, shows whether they are right.
      </div>
      <Among words="Lens type" value={lens.model} from={LAWS} onChange={(to) => void session.do({ do: "fisheye", law: LAWS.find(([one]) => one === to)?.[0] ?? law, equivalent_mm: equivalent })} />
      <div style={{ marginTop: 8 }}>
        <NumberField
          label="Focal length, full-frame equivalent"
          value={equivalent}
          unit="mm"
          least={least}
          most={most}
          digits={2}
          step={0.1}
          onAccept={(equivalent_mm) => void session.do({ do: "fisheye", law, equivalent_mm })}
        />
      </div>
    </>
  );
}

// Barrel, which bows lines outwards, is the usual fault: taking it out counts as positive.
const bendingOf = (recipe: Recipe) => -100 * handTerm(recipe);

const bent = (percent: number): Action => ({ do: "bend", percent });

function ByHand() {
  const session = useSession();
  const straight = useKnown((known) => bendingOf(recipeNow(known) ?? NOTHING) === 0);
  const back = useMemo(
    () => (
      <Touch px="6px" minW="44px" fontSize="0.8125rem" disabled={straight} aria-label="Reset distortion" onClick={() => void session.do(bent(0))}>
        Reset
      </Touch>
    ),
    [session, straight],
  );
  return (
    <>
      <Bending>{back}</Bending>
      <div style={{ marginTop: 6, marginBottom: 12, color: "var(--chakra-colors-second)", fontSize: "0.8125rem" }}>
        Drag until a straight edge near the border of the picture follows the grid. Barrel bows lines outwards, pincushion pinches them in.
      </div>
      <StillPanel />
    </>
  );
}

/** What moves with the hand, and nothing besides. */
function Bending({ children }: React.PropsWithChildren) {
  const value = useKnown((known) => bendingOf(recipeNow(known) ?? NOTHING));
  const lead = useLed({ name: "bending", value, set: bent });
  return (
    <Vernier
      name="Distortion"
      words={Math.abs(value) < 0.005 ? "none" : value > 0 ? "barrel" : "pincushion"}
      value={value}
      range={RANGE}
      unit="%"
      {...lead}
    >
      {children}
    </Vernier>
  );
}

function StraightThings({ recipe }: { recipe: Recipe }) {
  const session = useSession();
  const read = useKnown(readNow);
  const second = recipe.correction.free.includes("k2");
  const things = recipe.references.flatMap((line, index) => (line.kind === "straight" ? [{ line, number: index + 1 }] : []));
  if (!read) return null;
  const told = read.lens.determined.length > 0;
  return (
    <>
      <div className="row" style={{ justifyContent: "space-between", alignItems: "baseline" }}>
        <h2 style={{ fontWeight: 700 }}>
          Straight edges
        </h2>
        <div style={{ fontSize: "0.8125rem", color: "var(--chakra-colors-second)" }}>
          {things.length === 1 ? "1 drawn" : `${things.length} drawn`}
        </div>
      </div>
      <div style={{ marginTop: 4, fontSize: "0.8125rem", color: "var(--chakra-colors-second)" }}>
        Drag along a straight edge near the border, then pull the middle of the line onto it. Or click three points or more, and the
        last one twice. Long edges near the border work best.
      </div>
      <ul style={{ margin: 0, padding: 0, marginTop: 6, borderTop: "1px solid", borderColor: "var(--chakra-colors-rule)" }}>
        {things.map(({ line, number }) => {
          const row = read.lines.find((one) => one.id === line.id);
          return (
            <li className="row" key={line.id} style={{ listStyleType: "none", alignItems: "center", justifyContent: "space-between", gap: 8, borderBottom: "1px solid", borderColor: "var(--chakra-colors-rule)", paddingBlock: 3 }}>
              <div className="row" style={{ alignItems: "center", gap: 8, fontWeight: 700, color: "var(--chakra-colors-straight)" }}>
                {kindSign("straight")}
                {number}
              </div>
              <div style={{ fontSize: "0.8125rem", flex: "1" }}>
                {row?.as_taken} <span style={{ color: "var(--chakra-colors-second)" }}>{row?.plus_minus}</span>
              </div>
              <Touch px="8px" fontSize="0.8125rem" aria-label={`Delete straight edge ${number}`} onClick={() => deleteLine(session, line.id)}>
                Delete
              </Touch>
            </li>
          );
        })}
      </ul>
      {things.length > 0 && !told && (
        <div role="status" style={{ marginTop: 8, fontSize: "0.8125rem" }}>
          This is not enough to measure the distortion. Draw a longer edge, or one nearer the border.
        </div>
      )}
      <Touch
        mt="8px"
        fontSize="0.8125rem"
        aria-pressed={second}
        onClick={() => void session.do({ do: "lens", source: "straight", second: !second })}
      >
        {second && !read.lens.determined.includes("k2") && told ? "Complex distortion: not enough edges yet" : "Complex (moustache) distortion too"}
      </Touch>
    </>
  );
}
