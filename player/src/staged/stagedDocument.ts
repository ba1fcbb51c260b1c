/** The file `staged.json`: a scene, and what of its sounds is known without them. */
export interface StagedDocument {
  /** The scene document. */
  scene: object;
  /** Seconds of each sound that has an end, by its id. */
  soundsS: Readonly<Record<string, number>>;
}
