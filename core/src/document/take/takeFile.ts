import { type Static, Type } from "@sinclair/typebox";
import { closed, Name, oneOf } from "../../setting/schema";
import { posesAsText, posesFromText } from "./poseText";
import { POSED, Step, Take, VisitorEventSchema } from "./take";
import { TRY_OUT_NAMES } from "./tryOuts";
import { UnitEventSchema } from "./units";

const Poses = Type.String({ maxLength: 20_000_000 });

export const TAKE_FORMAT = "bumbrel-take";
/** A take as a file. */
export const TakeFileSchema = Type.Object(
  {
    format: Type.Literal(TAKE_FORMAT),
    version: Type.Literal(1),
    name: Name,
    tryOut: oneOf(TRY_OUT_NAMES),
    /** Steps of 1/120 s. */
    lengthSteps: Step,
    /** Seconds by which sounds that answers start come after their cue: as long as the device took. */
    soundDelayS: Type.Number({ minimum: 0, maximum: 1 }),
    units: Type.Array(UnitEventSchema, { maxItems: 100_000 }),
    events: Type.Array(VisitorEventSchema, { maxItems: 100_000 }),
    poses: Type.Partial(Type.Object({ head: Poses, left: Poses, right: Poses, tilt: Poses }, closed)),
  },
  { ...closed, $id: "https://bumbrel.invalid/take.schema.json", title: "Bumbrel take" },
);
export type TakeFile = Static<typeof TakeFileSchema>;

/** A take as a file. */
export function takeToFile(take: Take): TakeFile {
  const poses: TakeFile["poses"] = {};
  for (const part of POSED) if (take.poses[part].count > 0) poses[part] = posesAsText(take.poses[part]);
  return {
    format: TAKE_FORMAT,
    version: 1,
    name: take.name,
    tryOut: take.tryOut,
    lengthSteps: take.lengthSteps,
    soundDelayS: take.soundDelayS,
    units: [...take.units.events],
    events: [...take.events],
    poses,
  };
}

/**
 * @param file  one that fits the schema
 * @throws RangeError when its poses are damaged
 */
export function takeFromFile(file: TakeFile): Take {
  const take = new Take();
  take.isRun = true;
  take.name = file.name;
  take.tryOut = file.tryOut;
  take.soundDelayS = file.soundDelayS;
  for (const event of inOrder(file.units, ({ timeS }) => timeS)) take.units.record(event);
  for (const event of inOrder(file.events, ({ step }) => step)) take.record(event);
  for (const part of POSED) {
    const text = file.poses[part];
    if (text !== undefined) take.poses[part] = posesFromText(text);
  }
  take.lastUntil(file.lengthSteps);
  return take;
}

const inOrder = <T>(list: readonly T[], key: (one: T) => number): T[] =>
  [...list].sort((a, b) => key(a) - key(b));
