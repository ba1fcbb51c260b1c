import type { ProjectState } from "@bumbrel/api/contracts";
import { projectEventsUrl } from "./client";

/** Time before a connection that the server refused is tried again, ms. */
const AGAIN_MS = 5000;

/**
 * Tells a project's revision on the server, `null` when it is deleted: now and after each change.
 *
 * A page that is not seen does not listen: a browser allows few connections to one server, for all of its pages together.
 * It is told where things are when it is seen again.
 *
 * @returns a function that stops that
 */
export function watchProject(projectId: string, onState: (revision: number | null) => void): () => void {
  let source: EventSource | undefined;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const close = () => {
    clearTimeout(timer);
    source?.close();
    source = undefined;
  };
  const open = () => {
    close();
    source = new EventSource(projectEventsUrl(projectId));
    source.addEventListener("state", ({ data }) => onState((JSON.parse(data) as ProjectState).revision));
    source.addEventListener("error", () => {
      // It connects again by itself, but not after an answer that was none of events.
      if (source?.readyState === EventSource.CLOSED) timer = setTimeout(open, AGAIN_MS);
    });
  };
  const followPage = () => (document.visibilityState === "visible" ? open() : close());
  document.addEventListener("visibilitychange", followPage);
  followPage();
  return () => {
    document.removeEventListener("visibilitychange", followPage);
    close();
  };
}
