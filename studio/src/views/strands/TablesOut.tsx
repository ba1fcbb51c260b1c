import { cueTracks, writeCueMidi } from "@bumbrel/core/format/samples/cueMidi";
import { cueLabels, cueTable, strandTable } from "@bumbrel/core/strand/tables";
import { Table2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { AnalysisClient } from "../../analysis/analysisClient";
import { useAnalysis, useEditing, useScene } from "../../session/context";
import type { StrandFace } from "../../session/strandHooks";
import { Button } from "../../ui/Button";
import { saveFile } from "../../ui/saveFile";

const fileName = (name: string) => name.replace(/[^\p{L}\p{N} _-]+/gu, " ").trim() || "strand";

const save = (name: string, type: string, content: string | Uint8Array) =>
  saveFile(new File([content as BlobPart], name, { type }));

function tableOf({ traces: known }: AnalysisClient, strands: readonly StrandFace[]): string {
  return strandTable(
    strands.flatMap(({ id, name, measure }) => {
      const traces = known.get(id);
      if (!traces) return [];
      const { raw, shaped } = traces;
      return [{ name, measure, raw, shaped: shaped.values, width: shaped.width }];
    }),
  );
}

const ITEM =
  "cursor-pointer rounded px-3 py-1 text-sm outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-raised";

/** Strands and cues as files that other programs read. */
export function TablesOut({ chosen }: { chosen: StrandFace | undefined }) {
  const analysis = useAnalysis();
  const editing = useEditing();
  const withCues = () => editing.scene.strands.filter(({ cues }) => cues.on);
  const { hasStrands, hasCues, saveCues } = useScene(({ strands }) => ({
    hasStrands: strands.length > 0,
    hasCues: strands.some(({ cues }) => cues.on),
    saveCues: strands.some(({ id, cues }) => id === chosen?.id && cues.on),
  }));
  const cuesOf = (id: string) => analysis.traces.get(id)?.cues ?? [];
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="text-sm">
          <Table2 size={14} aria-hidden /> Save numbers
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content side="top" align="end" sideOffset={6} className="z-30 w-80 floating p-1">
          <DropdownMenu.Item
            className={ITEM}
            disabled={!chosen}
            onSelect={() =>
              chosen && save(`${fileName(chosen.name)}.csv`, "text/csv", tableOf(analysis, [chosen]))
            }
          >
            This strand, raw and shaped, as CSV
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            disabled={!hasStrands}
            onSelect={() => {
              const { name, strands } = editing.scene;
              save(`${fileName(name)}.csv`, "text/csv", tableOf(analysis, strands));
            }}
          >
            All strands as CSV
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-rule" />
          <DropdownMenu.Item
            className={ITEM}
            disabled={!saveCues}
            onSelect={() =>
              chosen && save(`${fileName(chosen.name)} cues.csv`, "text/csv", cueTable(cuesOf(chosen.id)))
            }
          >
            This strand’s cues as CSV
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            disabled={!saveCues}
            onSelect={() =>
              chosen &&
              save(
                `${fileName(chosen.name)} labels.txt`,
                "text/plain",
                cueLabels(chosen.name, cuesOf(chosen.id)),
              )
            }
          >
            This strand’s cues as text labels
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            disabled={!hasCues}
            onSelect={() => {
              const tracks = cueTracks(withCues().map(({ id, name }) => ({ name, cues: cuesOf(id) })));
              save(`${fileName(editing.scene.name)} cues.mid`, "audio/midi", writeCueMidi(tracks));
            }}
          >
            All cues as a Standard MIDI File
          </DropdownMenu.Item>
          <p className="px-3 py-1 text-xs text-mist">
            A CSV file with a time_s column can be dropped into the Sounds view and listened to.
          </p>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
