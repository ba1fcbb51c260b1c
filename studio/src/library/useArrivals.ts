import { nanoid } from "nanoid";
import { useState } from "react";
import { useWorkbench } from "../views/project/context";
import { addStored, replaceSound } from "../views/sounds/edits";
import { prepareFile } from "./prepareFile";

/** A file on its way in. */
export interface Arrival {
  id: string;
  name: string;
  stage: "waiting" | "reading" | "storing" | "failed";
  /** 0..1 of the stage. */
  share: number;
  /** Its waveform as far as it has been read. */
  pairs: Float32Array[];
  message?: string;
  abort: AbortController;
}

/** Files that are read at a time: decoding is work for a core each. */
const AT_ONCE = 2;
const NO_SOUND = /^(image|font)\/|^text\/(?!csv)|^application\/(pdf|json|zip|javascript)$/;
const NO_SOUND_NAME = /^\.|\.(png|jpe?g|gif|webp|svg|txt|md|pdf|json|zip|html?|css|js|ts)$/i;

/** Whether a file says of itself that it is something else than sound. */
const isNoSound = ({ name, type }: File) => NO_SOUND.test(type) || NO_SOUND_NAME.test(name);

/** Brings files in, several at a time, and tells how far each of them is. */
export function useArrivals() {
  const workbench = useWorkbench();
  const [arrivals, setArrivals] = useState<Arrival[]>([]);

  const update = (id: string, change: Partial<Arrival>) =>
    setArrivals((all) => all.map((one) => (one.id === id ? { ...one, ...change } : one)));
  const forget = (id: string) => setArrivals((all) => all.filter((one) => one.id !== id));

  const bringOne = async (file: File, arrival: Arrival, replacing: string | undefined) => {
    const { id, abort, pairs } = arrival;
    if (abort.signal.aborted) return forget(id);
    try {
      update(id, { stage: "reading" });
      const prepared = await prepareFile(file, abort.signal, (share, part) => {
        pairs.push(part);
        update(id, { share });
      });
      update(id, { stage: "storing", share: 0 });
      const name = file.name.replace(/\.[^.]+$/, "").slice(0, 120) || "Sound";
      const storedId = await workbench.library.store(
        name,
        prepared.facts,
        prepared.bytes,
        (share) => update(id, { share }),
        abort.signal,
      );
      if (replacing) replaceSound(workbench, replacing, prepared.is, storedId);
      else addStored(workbench, name, prepared.is, storedId);
      forget(id);
    } catch (error) {
      if (abort.signal.aborted) forget(id);
      else update(id, { stage: "failed", message: (error as Error).message });
    }
  };

  /**
   * @param replacing  the id of the sound whose place the first file takes
   */
  const bring = async (files: readonly File[], replacing?: string) => {
    const wanted = files.filter((file) => !isNoSound(file));
    const others = files.filter(isNoSound);
    if (others.length > 0) {
      const names = others.slice(0, 3).map(({ name }) => name);
      const more = others.length > 3 ? ` and ${others.length - 3} more` : "";
      setArrivals((all) => [
        ...all,
        {
          ...newArrival(names[0]),
          stage: "failed",
          message: `${names.join(", ")}${more}: not a sound. Nothing was brought in of it.`,
        },
      ]);
    }
    const queue = wanted.map((file) => ({ file, arrival: newArrival(file.name) }));
    setArrivals((all) => [...all, ...queue.map(({ arrival }) => arrival)]);
    const work = async () => {
      for (let next = queue.shift(); next; next = queue.shift()) {
        await bringOne(next.file, next.arrival, replacing);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
  };

  const putAway = (arrival: Arrival) => {
    arrival.abort.abort();
    forget(arrival.id);
  };
  return { arrivals, bring, putAway };
}

const newArrival = (name: string): Arrival => ({
  id: nanoid(8),
  name,
  stage: "waiting",
  share: 0,
  pairs: [],
  abort: new AbortController(),
});

/** All files of a drop, those inside folders too. */
export async function droppedFiles(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry());
  if (entries.every((entry) => !entry?.isDirectory)) return [...transfer.files];
  const files: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      files.push(
        await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)),
      );
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    // A folder hands out its entries a hundred at a time, until none are left.
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
        reader.readEntries(resolve, reject),
      );
      if (some.length === 0) return;
      for (const one of some) await walk(one);
    }
  };
  for (const entry of entries) if (entry) await walk(entry);
  return files;
}
