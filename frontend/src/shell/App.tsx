import { lazy, Suspense } from "react";

import { Notice } from "../parts/Notice";
import { usePath } from "../parts/path";
import { useUnkept } from "../session/open";

// Whoever opens a photo needs nothing of the contact sheet, and the other way round.
const ContactSheet = lazy(() => import("../contact-sheet/ContactSheet").then(({ ContactSheet }) => ({ default: ContactSheet })));
const Bench = lazy(() => import("./Bench").then(({ Bench }) => ({ default: Bench })));

export function App() {
  const photo = /^\/photos\/(\d+)$/.exec(usePath());
  const unkept = useUnkept((state) => state.words);
  return (
    <>
      <Suspense fallback={null}>{photo ? <Bench key={photo[1]} photoId={Number(photo[1])} /> : <ContactSheet />}</Suspense>
      {unkept && (
        <Notice action="Understood" onAction={() => useUnkept.setState({ words: null })}>
          {unkept}
        </Notice>
      )}
    </>
  );
}
