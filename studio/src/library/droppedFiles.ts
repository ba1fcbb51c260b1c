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
