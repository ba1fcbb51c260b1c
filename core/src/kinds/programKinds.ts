import type { ObjectKind, StageObject } from "../document/scene";
import type { ProgramKind } from "../program/kinds";

/** The kind of program that an object of a kind uses. */
export const programKindOf = (kind: ObjectKind): ProgramKind =>
  kind === "picturePass" ? "pass" : kind === "drawing" || kind === "drawingOver" ? "drawing" : "surface";

/** True for picture passes and overlay drawings, which are applied in the order of the document. */
export const isLayer = ({ kind }: Pick<StageObject, "kind">): boolean =>
  kind === "picturePass" || kind === "drawingOver";

/** True for kinds in GLSL, which run on the graphics card. */
export const isOfGraphics = (kind: ProgramKind): boolean => kind === "surface" || kind === "pass";
