import { useMemo } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";

/** Selections and view settings in a project. Kept in the browser; no part of the document. */
export interface Looking {
  strandId: string | undefined;
  /** Chosen on the stage; the first counts where one is asked for. */
  objectIds: string[];
  /** Sound the spine shows; the first that is heard unless chosen. */
  soundId: string | undefined;
  axis: "log" | "linear";
  positionS: number;
  /** Paused positions of sounds that run by themselves, by their units. */
  alone: Record<string, number>;
  /** The sound that is opened up in the Sounds view. */
  openSoundId: string | undefined;
  /** The shaping step of a strand that is opened beside those that always are, or its cues. */
  openPart: string;
  /** True if every strand's numbers stand as text beside the trace. */
  numbers: boolean;
  /** The keep that is compared with; without one, the tunings as the project was opened. */
  compareKeepId: string | undefined;
  /** Part of an opened sound that is shown. */
  tools: LookTools;
}

/** Ways of looking at a sound; each costs nothing while it is hidden. */
export interface LookTools {
  waveform: boolean;
  spectrogram: boolean;
  loudness: boolean;
  spectrum: boolean;
  average: boolean;
  style: "line" | "filled" | "bars";
  level: "dB" | "linear";
  follow: boolean;
}

const NOTHING: Looking = {
  strandId: undefined,
  objectIds: [],
  soundId: undefined,
  axis: "log",
  positionS: 0,
  alone: {},
  openSoundId: undefined,
  openPart: "cues",
  numbers: false,
  compareKeepId: undefined,
  tools: {
    waveform: true,
    spectrogram: false,
    loudness: false,
    spectrum: true,
    average: false,
    style: "filled",
    level: "dB",
    follow: true,
  },
};

interface UiState {
  theme: "dark" | "light";
  looking: Record<string, Looking>;
  /** Sections of the stage's sheet that are folded. */
  closedSections: string[];
  setTheme(theme: "dark" | "light"): void;
  toggleSection(section: string): void;
  look(projectId: string, change: Partial<Looking>): void;
}

export const useUi = create<UiState>()(
  persist(
    (set) => ({
      theme: "dark",
      looking: {},
      closedSections: ["variety", "wake", "solid"],
      setTheme: (theme) => set({ theme }),
      toggleSection: (section) =>
        set(({ closedSections }) => ({
          closedSections: closedSections.includes(section)
            ? closedSections.filter((one) => one !== section)
            : [...closedSections, section],
        })),
      look: (projectId, change) =>
        set(({ looking }) => ({
          looking: { ...looking, [projectId]: { ...(looking[projectId] ?? NOTHING), ...change } },
        })),
    }),
    { name: "bumbrel-ui" },
  ),
);

export function useLooking(projectId: string): Looking {
  const known = useUi((state) => state.looking[projectId]);
  // State that an older version kept lacks newer fields.
  return useMemo(() => ({ ...NOTHING, ...known }), [known]);
}
