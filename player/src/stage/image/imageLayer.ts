/**
 * Something that is laid over the finished picture, or changes it: a fragment shader that reads `pictureMap` and writes
 * what follows it.
 */
export interface ImageLayer {
  fragment: string;
  uniforms: Record<string, { value: unknown }>;
  /** It reads `depthMap`. */
  readsDepth: boolean;
  /** It changes nothing at 0. */
  amount: { value: number };
}
