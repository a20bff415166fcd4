import { Bench } from "./Bench";
import { useBench } from "../session/benchStore";
import { ContactSheet } from "../contact-sheet/ContactSheet";
import { Notice } from "../parts/Notice";
import { usePath } from "../parts/path";

export function App() {
  const photo = /^\/photos\/(\d+)$/.exec(usePath());
  const unkept = useBench((state) => state.unkept);
  return (
    <>
      {photo ? <Bench key={photo[1]} photoId={Number(photo[1])} /> : <ContactSheet />}
      {unkept && (
        <Notice action="Understood" onAction={() => useBench.setState({ unkept: null })}>
          {unkept}
        </Notice>
      )}
    </>
  );
}
