import type { StageObject } from "@bumbrel/core/document/scene";
import { programKindOf } from "@bumbrel/core/kinds/programKinds";
import { choicesFor, exposedBy } from "@bumbrel/core/kinds/programs";
import type { ProgramExample } from "@bumbrel/core/program/examples";
import { exposedKey, type LinkType } from "@bumbrel/core/program/exposed";
import type { ProgramKind } from "@bumbrel/core/program/kinds";
import { SquarePen } from "lucide-react";
import { useEditing, useScene } from "../session/context";
import { chooseProgram, openProgram, setLink, writeProgram } from "../session/edits/programs";
import { Button } from "../ui/Button";
import { SELECT } from "../ui/fields/Choice";
import { ExamplePicker } from "./ExamplePicker";

/** Chooses the program of objects, writes a new one, or opens it. */
export function ProgramField({ objects, label }: { objects: readonly StageObject[]; label: string }) {
  const editing = useEditing();
  return (
    <ProgramChoice
      label={label}
      kind={programKindOf(objects[0].kind)}
      programId={(objects[0].settings.programId as string | null | undefined) ?? null}
      onChoose={(id) => chooseProgram(editing, objects, id)}
      onWrite={(example) => writeProgram(editing, objects, example)}
    />
  );
}

/** Chooses a program of a kind, writes a new one from an example, or opens it. */
export function ProgramChoice({
  label,
  kind,
  programId,
  onChoose,
  onWrite,
}: {
  label: string;
  kind: ProgramKind;
  programId: string | null;
  onChoose(id: string | null): void;
  /** Gives the new program's id. */
  onWrite(example: ProgramExample): string;
}) {
  const programs = useScene((scene) => scene.programs);
  return (
    <>
      <select
        aria-label={label}
        className={SELECT}
        value={programId ?? ""}
        onChange={(event) => onChoose(event.target.value || null)}
      >
        <option value="">none</option>
        {programs
          .filter((one) => one.kind === kind)
          .map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
      </select>
      {programId !== null && (
        <Button className="text-sm" onClick={() => openProgram(programId)}>
          <SquarePen size={13} aria-hidden /> Open
        </Button>
      )}
      <ExamplePicker kind={kind} onPick={(example) => openProgram(onWrite(example))} />
    </>
  );
}

/** Fields for each strand, fan, sound and image that a program asks for. */
export function LinkFields({ objects }: { objects: readonly StageObject[] }) {
  const editing = useEditing();
  const [object] = objects;
  const { programId } = object.settings;
  const program = useScene((scene) => scene.programs.find(({ id }) => id === programId));
  const scene = useScene(({ strands, sounds, assets }) => ({ strands, sounds, assets }));
  const links = useScene((all) => all.objects.find(({ id }) => id === object.id)?.links);
  if (!program) return null;
  return exposedBy(program).flatMap(({ name, type, label, help, property }) => {
    if (property) return [];
    const key = exposedKey(name);
    const choices = choicesFor(scene, type as LinkType);
    return [
      <div
        key={key}
        title={help}
        className="flex flex-wrap items-center gap-x-2 gap-y-1 border-t border-rule py-1.5"
      >
        <span className="font-semibold">{label}</span>
        <span className="text-sm text-mist">is</span>
        <select
          aria-label={label}
          className={SELECT}
          value={links?.[key] ?? ""}
          onChange={(event) => setLink(editing, objects, key, event.target.value || null)}
        >
          <option value="">no {type === "picture" ? "image" : type}</option>
          {choices.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </div>,
    ];
  });
}
