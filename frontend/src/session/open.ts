import { create } from "zustand";

import { Session } from "./session";

/** What was not kept of a photo that had been left already, in words. */
export const useUnkept = create<{ words: string | null }>(() => ({ words: null }));

/** The queues of photos that were left, until they are empty. */
const finishing = new Map<number, Promise<unknown>>();

export const newSession = (photo: number) => new Session(photo, (words) => useUnkept.setState({ words }));

/** Open a photo: who comes back at once sees what was done before, not what it was on the way. */
export const openSession = (session: Session): Promise<void> => session.open(finishing.get(session.photo));

/** Leave a photo; done when all that was done to it is kept. */
export function closeSession(session: Session): Promise<void> {
  const finished: Promise<void> = Promise.all([finishing.get(session.photo), session.close()]).then(() => {
    if (finishing.get(session.photo) === finished) finishing.delete(session.photo);
  });
  finishing.set(session.photo, finished);
  return finished;
}
