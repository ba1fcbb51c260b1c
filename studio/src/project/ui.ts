import { create } from "zustand";
import { persist } from "zustand/middleware";

/** What a person has chosen to look at in a project. Kept in the browser; no part of the document. */
export interface Looking {
  strandId: string | undefined;
  objectId: string | undefined;
  /** Sound the spine shows; the first that is heard unless chosen. */
  soundId: string | undefined;
  axis: "log" | "linear";
  positionS: number;
}

const NOTHING: Looking = {
  strandId: undefined,
  objectId: undefined,
  soundId: undefined,
  axis: "log",
  positionS: 0,
};

interface UiState {
  theme: "dark" | "light";
  looking: Record<string, Looking>;
  setTheme(theme: "dark" | "light"): void;
  look(projectId: string, change: Partial<Looking>): void;
}

export const useUi = create<UiState>()(
  persist(
    (set) => ({
      theme: "dark",
      looking: {},
      setTheme: (theme) => set({ theme }),
      look: (projectId, change) =>
        set(({ looking }) => ({
          looking: { ...looking, [projectId]: { ...(looking[projectId] ?? NOTHING), ...change } },
        })),
    }),
    { name: "bumbrel-ui" },
  ),
);

export function useLooking(projectId: string): Looking {
  return useUi((state) => state.looking[projectId] ?? NOTHING);
}
