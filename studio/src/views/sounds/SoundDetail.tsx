import { runningOf } from "@bumbrel/core/document/strands/running";
import { CAPTION_SETTING, isLive, type Sound } from "@bumbrel/core/sound/kinds";
import { FileInput } from "lucide-react";
import { useEditing, useScene } from "../../session/context";
import { editRunning, putInGroup } from "../../session/edits/sounds";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { DeclaredField } from "../../ui/fields/DeclaredField";
import { NameField } from "../../ui/fields/NameField";
import { ClockSettings } from "./ClockSettings";
import { InputSettings } from "./InputSettings";
import { KeysSettings } from "./KeyPad";
import { Looking } from "./looking/Looking";
import { MadeSettings } from "./MadeSettings";
import { PlaceSettings } from "./PlaceSettings";

/** A sound opened up: what it is made of, how it runs, where it is, and ways to look at it. */
export function SoundDetail({ sound, onReplace }: { sound: Sound; onReplace: (() => void) | undefined }) {
  return (
    <section
      aria-label={`${sound.name} opened`}
      className="mt-2 grid grid-cols-[330px_minmax(0,1fr)] gap-5 pb-2"
    >
      <div className="grid content-start gap-3">
        {(sound.kind === "tone" || sound.kind === "noise") && <MadeSettings sound={sound} />}
        {sound.kind === "clock" && <ClockSettings sound={sound} />}
        {sound.kind === "input" && <InputSettings sound={sound} />}
        {sound.kind === "keys" && <KeysSettings sound={sound} />}
        {onReplace && (
          <div className="flex items-center gap-2 text-sm text-mist">
            <Button className="text-sm" onClick={onReplace}>
              <FileInput size={15} aria-hidden /> Replace the file
            </Button>
            strands, fader and bus stay
          </div>
        )}
        {!isLive(sound) && <Running sound={sound} />}
        {sound.kind !== "keys" && <PlaceSettings sound={sound} />}
        {!isLive(sound) && <CaptionField sound={sound} />}
      </div>
      {sound.kind !== "keys" && <Looking sound={sound} />}
    </section>
  );
}

/** The words that stand for the sound where somebody cannot hear it. */
function CaptionField({ sound }: { sound: Sound }) {
  const editing = useEditing();
  return (
    <div className="flex items-center gap-2 text-sm text-mist">
      Caption
      <DeclaredField
        setting={CAPTION_SETTING}
        className="min-w-0 grow"
        value={sound.caption ?? ""}
        onChange={(value) =>
          editing.edit(
            `caption of ${sound.name}`,
            (draft) => {
              const one = draft.sounds.find(({ id }) => id === sound.id);
              if (!one) return;
              if (value) one.caption = String(value);
              else delete one.caption;
            },
            `caption ${sound.id}`,
          )
        }
        onDone={() => editing.endGesture()}
      />
    </div>
  );
}

/** Unit that it starts, seeks and loops with. */
function Running({ sound }: { sound: Sound }) {
  const editing = useEditing();
  const groups = useScene((scene) => scene.groups);
  const { runs, group } = runningOf({ groups }, sound);
  const members = useScene(
    ({ sounds }) => sounds.filter(({ groupId }) => group && groupId === group.id).length,
  );
  return (
    <div className="grid gap-1.5 text-sm text-mist">
      <div className="flex items-center gap-2">
        Runs
        <Choice
          label="What it starts with"
          title="With the tape it is always where the tape is; by itself it has a play button and a place of its own"
          value={runs}
          choices={[
            ["tape", "with the tape"],
            ["alone", "by itself"],
          ]}
          onChange={(next) => editRunning(editing, sound, { runs: next })}
        />
        in
        <Choice
          label="Group"
          className="w-28"
          value={group?.id ?? ""}
          choices={[
            ["", "no group"],
            ...groups.map(({ id, name }) => [id, name] as const),
            ["+", "a new group"],
          ]}
          onChange={(id) => putInGroup(editing, sound, id === "" ? null : id === "+" ? "new" : id)}
        />
      </div>
      {group && (
        <div className="flex items-baseline gap-1">
          <NameField
            label="Group name"
            className="w-24 px-1"
            value={group.name}
            onRename={(name) =>
              editing.edit(`rename ${group.name}`, (draft) => {
                const one = draft.groups.find(({ id }) => id === group.id);
                if (one) one.name = name;
              })
            }
          />
          {members === 1 ? "has one sound." : `is ${members} sounds that start and loop as one.`}
        </div>
      )}
    </div>
  );
}
