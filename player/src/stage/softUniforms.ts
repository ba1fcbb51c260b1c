import { type Texture, Vector2 } from "three";

/** What things that fade where they touch others read of the image they are drawn over: of that which is drawn now. */
export const softUniforms = {
  /** Its depth; none while nothing soft can be drawn. */
  sceneDepth: { value: null as Texture | null },
  /** Its size, pixels. */
  sceneSize: { value: new Vector2(1, 1) },
};
