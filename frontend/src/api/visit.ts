import { create } from "zustand";

/** Whether the server wants somebody to sign in before it tells anything more. */
export const useVisit = create<{ asked: boolean }>()(() => ({ asked: false }));

export const askToSignIn = () => useVisit.setState({ asked: true });
