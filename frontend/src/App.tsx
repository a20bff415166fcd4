import { Bench } from "./bench/Bench";
import { ContactSheet } from "./contact-sheet/ContactSheet";
import { usePath } from "./path";

export function App() {
  const photo = /^\/photos\/(\d+)$/.exec(usePath());
  return photo ? <Bench key={photo[1]} photoId={Number(photo[1])} /> : <ContactSheet />;
}
