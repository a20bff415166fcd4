import { useSyncExternalStore } from "react";

/** The address of the page, and going to another one without a reload. */
export function usePath(): string {
  return useSyncExternalStore(
    (changed) => {
      window.addEventListener("popstate", changed);
      return () => window.removeEventListener("popstate", changed);
    },
    () => window.location.pathname,
  );
}

export function goTo(path: string) {
  window.history.pushState(null, "", path);
  window.dispatchEvent(new PopStateEvent("popstate"));
}
