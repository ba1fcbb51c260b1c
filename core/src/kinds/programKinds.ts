import type { ObjectKind, StageObject } from "../document/scene";
import type { ProgramKind } from "../program/kinds";

/** The kind of program that an object of a kind uses. */
export const programKindOf = (kind: ObjectKind): ProgramKind =>
  kind === "picturePass" ? "pass" : kind === "drawing" || kind === "drawingOver" ? "drawing" : "surface";

/** Whether an object is laid over the finished picture or changes it; those follow each other in the order of the document. */
export const isLayer = ({ kind }: Pick<StageObject, "kind">): boolean =>
  kind === "picturePass" || kind === "drawingOver";

/** Whether programs of a kind are run by the graphics card. */
export const isOfGraphics = (kind: ProgramKind): boolean => kind === "surface" || kind === "pass";
