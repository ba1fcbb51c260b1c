import type { Program, StageObject } from "@bumbrel/core/document/scene";
import { exposedBy } from "@bumbrel/core/kinds/programs";
import { type Exposed, exposedKey } from "@bumbrel/core/program/exposed";
import { Texture, Vector2, Vector3 } from "three";
import type { ProgramSource } from "./programSource";
import type { ProgramTextures } from "./programTextures";
import type { SurfaceProgram } from "./surfaceCode";

/** A program as an object uses it. */
export interface UsedProgram<Code = SurfaceProgram> {
  code: Code;
  /** Its values, by the names they have in the shader. */
  uniforms: Record<string, { value: unknown }>;
  /** Takes over the values of now. */
  follow(object: StageObject, at: (key: string, axis?: number) => number): void;
}

const EMPTY = new Texture();

/** Makes a program ready for an object: its uniforms, and what fills them each frame. */
export function useOf<Code>(
  program: Program,
  code: Code,
  { numbers }: ProgramTextures,
  source: ProgramSource,
): UsedProgram<Code> {
  const values = exposedBy(program);
  const uniforms = Object.fromEntries(values.map((one) => [`bumbrel_${one.name}`, { value: startOf(one) }]));
  return {
    code,
    uniforms,
    follow(object, at) {
      for (const { name, type } of values) {
        const key = exposedKey(name);
        const uniform = uniforms[`bumbrel_${name}`];
        const link = object.links?.[key];
        switch (type) {
          case "colour":
          case "vector":
            (uniform.value as Vector3).set(at(key), at(key, 1), at(key, 2));
            break;
          case "switch":
            uniform.value = at(key) >= 0.5;
            break;
          case "whole":
          case "choice":
            uniform.value = Math.round(at(key));
            break;
          case "number":
            uniform.value = at(key);
            break;
          case "strand":
            uniform.value = link === undefined ? -1 : (numbers.columnsOf(link)?.first ?? -1);
            break;
          case "fan": {
            const columns = link === undefined ? undefined : numbers.columnsOf(link);
            (uniform.value as Vector2).set(columns?.first ?? 0, columns?.count ?? 0);
            break;
          }
          case "sound":
            uniform.value = link === undefined ? -1 : numbers.soundOf(link);
            break;
          case "picture":
            uniform.value = (link !== undefined && source.picture(link, false)) || EMPTY;
        }
      }
    },
  };
}

function startOf({ type }: Exposed): unknown {
  switch (type) {
    case "colour":
    case "vector":
      return new Vector3();
    case "fan":
      return new Vector2();
    case "picture":
      return EMPTY;
    case "switch":
      return false;
    case "strand":
    case "sound":
      return -1;
    default:
      return 0;
  }
}
