/** Content under a title that opens and closes it. */
export function folded(title: string, ...content: (Node | string)[]): HTMLElement {
  const details = document.createElement("details");
  const summary = document.createElement("summary");
  summary.textContent = title;
  details.append(summary, ...content);
  return details;
}
