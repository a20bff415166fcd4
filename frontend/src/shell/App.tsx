import { useEffect } from "react";

import { useVisit } from "../api/visit";
import { Notice } from "../parts/Notice";
import { usePath } from "../parts/path";
import { useUnkept } from "../session/open";
import { later } from "../parts/later";

// Whoever opens a photo needs nothing of the contact sheet, and the other way round.
const ContactSheet = later(() => import("../contact-sheet/ContactSheet").then(({ ContactSheet }) => ContactSheet));
const Review = later(() => import("../review/Review").then(({ Review }) => Review));
const GoingOn = later(() => import("../going-on/GoingOn").then(({ GoingOn }) => GoingOn));
const SignIn = later(() => import("../account/SignIn").then(({ SignIn }) => SignIn));
const Account = later(() => import("../account/Account").then(({ Account }) => Account));
const Bench = later(() => import("./Bench").then(({ Bench }) => Bench));

const AHEAD_MS = 1500;

export function App() {
  const path = usePath();
  const photo = /^\/photos\/(\d+)$/.exec(path);
  useEffect(() => {
    // A photo is opened next, so what it needs is there by then.
    const soon = setTimeout(() => void Bench.fetch().catch(() => undefined), AHEAD_MS);
    return () => clearTimeout(soon);
  }, []);
  const unkept = useUnkept((state) => state.words);
  const stranger = useVisit((visit) => visit.asked);
  if (stranger) return <SignIn />;
  return (
    <>
      {photo ? <Bench key={photo[1]} photoId={Number(photo[1])} /> : path === "/review" ? <Review /> : path === "/going-on" ? <GoingOn /> : path === "/account" ? <Account /> : <ContactSheet />}
      {unkept && (
        <Notice action="Close" onAction={() => useUnkept.setState({ words: null })}>
          {unkept}
        </Notice>
      )}
    </>
  );
}
