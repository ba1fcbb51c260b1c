import type { Setting, SettingValue } from "@bumbrel/core/setting/descriptor";
import { SOUND_KINDS, type Sound } from "@bumbrel/core/sound/kinds";
import type { ReactNode } from "react";
import { useEditing } from "../../session/context";
import { editSound } from "../../session/edits/sounds";
import { DeclaredField } from "../../ui/fields/DeclaredField";

type Made = Extract<Sound, { kind: "tone" | "noise" }>;

/** Settings of a tone or noise; a frequency can be typed in Hz or as a note. */
export function MadeSettings({ sound }: { sound: Made }) {
  const editing = useEditing();
  const settings: Record<string, Setting> = SOUND_KINDS[sound.kind].settings;
  const values = sound as unknown as Record<string, SettingValue>;
  const set = (change: Record<string, SettingValue>) =>
    editSound(editing, sound, "change", (one) => Object.assign(one, change));
  const field = (key: string) => {
    const setting = settings[key];
    return setting.type === "number" || setting.type === "choice" ? (
      <DeclaredField setting={setting} value={values[key]} onChange={(value) => set({ [key]: value })} />
    ) : null;
  };
  return (
    <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1 py-0.5 text-sm text-mist">
      {sound.kind === "tone" ? (
        <>
          {field("waveform")}
          {field("hz")}
          {sound.toHz === null ? (
            <Switch onClick={() => set({ toHz: Math.min(SOUND_KINDS.tone.settings.toHz.max, sound.hz * 4) })}>
              sweep
            </Switch>
          ) : (
            <>
              to {field("toHz")}
              {field("sweep")}
              <Switch onClick={() => set({ toHz: null })}>stay</Switch>
            </>
          )}
        </>
      ) : (
        <>
          {field("colour")} noise, seed {field("seed")}
        </>
      )}
      for {field("seconds")}
      at {field("levelDb")}
    </div>
  );
}

function Switch({ onClick, children }: { onClick(): void; children: ReactNode }) {
  return (
    <button
      type="button"
      className="rounded-full border border-rule px-2 hover:border-brass hover:text-brass"
      onClick={onClick}
    >
      {children}
    </button>
  );
}
