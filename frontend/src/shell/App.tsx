import { Notice } from "../parts/Notice";
import { usePath } from "../parts/path";
import { ContactSheet } from "../contact-sheet/ContactSheet";
import { useUnkept } from "../session/open";
import { Bench } from "./Bench";

export function App() {
  const photo = /^\/photos\/(\d+)$/.exec(usePath());
  const unkept = useUnkept((state) => state.words);
  return (
    <>
      {photo ? <Bench key={photo[1]} photoId={Number(photo[1])} /> : <ContactSheet />}
      {unkept && (
        <Notice action="Understood" onAction={() => useUnkept.setState({ words: null })}>
          {unkept}
        </Notice>
      )}
    </>
  );
}
