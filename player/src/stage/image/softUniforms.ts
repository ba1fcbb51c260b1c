import { type Texture, Vector2 } from "three";

/** Uniforms of objects that fade where they touch others: depth of the image that is being drawn. */
export const softUniforms = {
  /** Its depth; none while nothing soft can be drawn. */
  sceneDepth: { value: null as Texture | null },
  /** Its size, pixels. */
  sceneSize: { value: new Vector2(1, 1) },
};
