import type { Strand } from "@bumbrel/core/document/scene";
import { cueTracks, writeCueMidi } from "@bumbrel/core/format/cueMidi";
import { cueLabels, cueTable, strandTable } from "@bumbrel/core/strand/tables";
import { Table2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Button } from "../../ui/Button";
import { saveFile } from "../../ui/saveFile";
import { useResults, useScene, useWorkbench } from "../project/context";
import type { Workbench } from "../project/workbench";

const fileName = (name: string) => name.replace(/[^\p{L}\p{N} _-]+/gu, " ").trim() || "strand";

const save = (name: string, type: string, content: string | Uint8Array) =>
  saveFile(new File([content as BlobPart], name, { type }));

function tableOf(workbench: Workbench, strands: readonly Strand[]): string {
  return strandTable(
    strands.flatMap(({ id, name, measure }) => {
      const traces = workbench.analysis.traces.get(id);
      if (!traces) return [];
      const { raw, shaped } = traces;
      return [{ name, measure, raw, shaped: shaped.values, width: shaped.width }];
    }),
  );
}

const ITEM =
  "cursor-pointer rounded px-3 py-1 text-sm outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-raised";

/** Strands and cues as files that other programs read. */
export function TablesOut({ chosen }: { chosen: Strand | undefined }) {
  const workbench = useWorkbench();
  const scene = useScene();
  useResults();
  const withCues = scene.strands.filter(({ cues }) => cues.on);
  const cuesOf = (id: string) => workbench.analysis.traces.get(id)?.cues ?? [];
  const saveCues = chosen?.cues.on ?? false;
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
              chosen && save(`${fileName(chosen.name)}.csv`, "text/csv", tableOf(workbench, [chosen]))
            }
          >
            This strand, raw and shaped, as CSV
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={ITEM}
            disabled={scene.strands.length === 0}
            onSelect={() =>
              save(`${fileName(scene.name)}.csv`, "text/csv", tableOf(workbench, scene.strands))
            }
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
            disabled={withCues.length === 0}
            onSelect={() => {
              const tracks = cueTracks(withCues.map(({ id, name }) => ({ name, cues: cuesOf(id) })));
              save(`${fileName(scene.name)} cues.mid`, "audio/midi", writeCueMidi(tracks));
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
