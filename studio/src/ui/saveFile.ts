/** Has the browser save a file. */
export function saveFile(file: File): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = file.name;
  link.click();
  // The browser may read it for a while.
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
