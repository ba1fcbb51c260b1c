import { runsWithTape } from "@bumbrel/core/document/strands/running";
import { samplesKey } from "@bumbrel/core/sound/key";
import type { Section } from "@bumbrel/core/strand/sections";
import { SquareSplitHorizontal } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { useAnalysis, useEditing, useResult, useScene } from "../../session/context";
import { addSections } from "../../session/edits/answers";
import { IconButton } from "../../ui/Button";

/** Describes the sections that were found. */
function foundText(found: readonly Section[], added: number): string {
  if (found.length < 2)
    return "No sections were found: the sound is much the same throughout, or shorter than ten seconds.";
  const letters = found.map(({ letter }) => letter).join(" ");
  if (added === 0) return `${letters}: all of them are marked already.`;
  return `${letters}: ${added} ${added === 1 ? "mark was" : "marks were"} set where they begin. Sections that sound alike share a letter.`;
}

/** Finds the sections of the longest sound on the tape and marks where they begin. */
export function FindSections() {
  const analysis = useAnalysis();
  const editing = useEditing();
  const scene = useScene(({ sounds, groups }) => ({ sounds, groups }));
  const [text, setText] = useState<string>();
  const [isSearching, setIsSearching] = useState(analysis.sectionSearch !== undefined);
  const key = useResult(({ library }) => {
    const [longest] = scene.sounds
      .filter((sound) => sound.heard && runsWithTape(scene, sound) && library.soundOf(sound))
      .sort((a, b) => library.lengthOf(b) - library.lengthOf(a));
    return longest && samplesKey(longest);
  });
  const foundShare = useResult((sources) => sources.analysis.sectionSearch?.share);
  const share = isSearching ? foundShare : undefined;
  const press = () => {
    setText(undefined);
    setIsSearching(share === undefined);
    if (share !== undefined) analysis.stopFindingSections();
    else if (key !== undefined)
      analysis.findSections(key, (found) => {
        setIsSearching(false);
        setText(foundText(found, found.length < 2 ? 0 : addSections(editing, found)));
      });
  };
  return (
    <Popover.Root open={text !== undefined} onOpenChange={(isOpen) => !isOpen && setText(undefined)}>
      <Popover.Anchor asChild>
        <span className="inline-flex">
          <IconButton
            label={
              share === undefined ? "Find sections" : `Stop finding sections, ${Math.round(100 * share)} %`
            }
            disabled={key === undefined && share === undefined}
            onClick={press}
          >
            {share !== undefined ? (
              <span className="figures text-xs text-brass">{Math.round(100 * share)}%</span>
            ) : (
              <SquareSplitHorizontal size={16} />
            )}
          </IconButton>
        </span>
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content side="top" sideOffset={6} className="floating z-30 w-72 p-3 text-sm">
          <p role="status">{text}</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
