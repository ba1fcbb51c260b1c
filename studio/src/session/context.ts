import type { Scene, StageObject } from "@bumbrel/core/document/scene";
import type { TransportState } from "@bumbrel/player/audio/transport";
import type { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { createContext, useContext, useRef, useSyncExternalStore } from "react";
import { useStore } from "zustand";
import { shallow, useShallow } from "zustand/shallow";
import type { DocumentState, DocumentStore } from "../document/documentStore";
import type { Arrival, Arrivals } from "../library/arrivals";
import type { Session } from "./session";

export const SessionContext = createContext<Session | undefined>(undefined);

/** All parts of the open project: for what hands several of them on. A component that needs one has a hook below. */
export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error("this part of the studio needs an open project around it");
  return session;
}

export const useProjectId = (): string => useSession().projectId;
/** The document for handlers that edit it; reading it here renders nothing again. */
export const useEditing = (): DocumentStore => useSession().document;
export const usePlayer = (): ScenePlayer => useSession().player;
export const useNumbers = () => useSession().numbers;
export const useLibrary = () => useSession().library;
export const useAnalysis = () => useSession().analysis;
export const useAudition = () => useSession().audition;

/** Reads a part of the open document; an edit renders only what reads a part that it changed. */
export function useDocument<T>(select: (state: DocumentState) => T): T {
  return useStore(useSession().document.store, useShallow(select));
}

/** The whole scene: renders again at every edit. */
export const useWholeScene = (): Scene => useDocument(({ scene }) => scene);

/**
 * A part of the scene: renders again only when that part is another one.
 *
 * @param isSame  whether a part counts as unchanged; without it, when its own parts are the same objects
 */
export function useScene<T>(select: (scene: Scene) => T, isSame?: (before: T, now: T) => boolean): T {
  const last = useRef<{ value: T }>(undefined);
  return useDocument(({ scene }) => {
    const value = select(scene);
    const before = last.current;
    if (before && isSame?.(before.value, value)) return before.value;
    last.current = { value };
    return value;
  });
}

/** The parts of a session that results are read from. */
export type ResultSources = Pick<Session, "library" | "analysis" | "audition" | "player" | "programs">;

/**
 * A result that arrives by itself: a loaded sound, a strand's numbers, what is soloed. Renders again only when the
 * selected value is another one; of an array or plain object, when one of its parts is.
 */
export function useResult<T>(select: (sources: ResultSources) => T): T {
  const session = useSession();
  const last = useRef<T>(undefined);
  return useSyncExternalStore(session.results.subscribe, () => {
    const value = select(session);
    if (!shallow(last.current, value)) last.current = value;
    return last.current as T;
  });
}

/** The transport's state and length, which change rarely; the position is read each frame instead. */
export function useTransport(): { state: TransportState; durationS: number } {
  const { transport } = usePlayer();
  const key = useSyncExternalStore(
    (listener) => transport.onChange(listener),
    () => `${transport.state} ${transport.durationS}`,
  );
  const [state, durationS] = key.split(" ");
  return { state: state as TransportState, durationS: Number(durationS) };
}

/** The files on their way in, and what brings them. */
export function useArrivals(): { arrivals: Arrivals; list: readonly Arrival[] } {
  const { arrivals } = useSession();
  return { arrivals, list: useSyncExternalStore(arrivals.subscribe, arrivals.all) };
}

/** True if objects are the same in all but what they rest at. */
export function sameButRest(before: readonly StageObject[], now: readonly StageObject[]): boolean {
  return (
    before.length === now.length &&
    before.every((one, i) => {
      const { id, kind, name, parentId, hidden, locked, settings, own } = now[i];
      return (
        one.id === id &&
        one.kind === kind &&
        one.name === name &&
        one.parentId === parentId &&
        one.hidden === hidden &&
        one.locked === locked &&
        one.settings === settings &&
        one.own === own
      );
    })
  );
}

/**
 * How far the samples behind a key are: loaded, loading, or failed. Renders again as they arrive.
 *
 * @param key  from `samplesKey`; a sound without samples has none
 */
export function useSamples(key: string | undefined) {
  return useResult(({ library }) => ({
    loaded: key === undefined ? undefined : library.sounds.get(key),
    loadingShare: key === undefined ? undefined : library.loading.get(key),
    failure: key === undefined ? undefined : library.failures.get(key),
    waveform: key === undefined ? undefined : library.waveforms.get(key),
    hopsReady: key === undefined ? 0 : library.waveforms.get(key)?.hopsReady,
  }));
}
