import { Bench } from "./bench/Bench";
import { useBench } from "./bench/benchStore";
import { ContactSheet } from "./contact-sheet/ContactSheet";
import { Notice } from "./Notice";
import { usePath } from "./path";

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
