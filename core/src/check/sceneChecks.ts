import { drivingStrands } from "../analyse/needed";
import type { Scene, StageObject } from "../document/scene";
import type { Finding } from "../errors";
import type { ObjectPlan } from "../evaluate/plan";
import { propertyOf } from "../kinds/table";
import { newInstances } from "../simulate/placing";
import { SceneState } from "../simulate/sceneState";
import type { Advice } from "../strand/health";
import type { ShapingChange } from "../strand/shaping";
import { checkReferences } from "./references";

/** Something noticed about a scene: what, where, and how to mend it. */
export interface SceneCheck extends Finding {
  /** The strand, object or sound that it is about. */
  about: { kind: "strand" | "object" | "sound"; id: string } | undefined;
  /** A change of the strand's shaping that mends it. */
  change: ShapingChange | undefined;
}

/** Shapes of pictures that a scene is looked at in: a screen, and a phone held upright. */
const ACROSS = 16 / 9;
const UPRIGHT = 9 / 16;
/** So much of something is in the picture: in one all but a little, in the other hardly any. */
const SEEN = 0.6;
const UNSEEN = 0.1;
/** Names that are told; more are counted. */
const FEW = 4;
/** Copies that are looked at: of more, every n-th. */
const MOST_COPIES = 200;

/** Everything noticed about a scene: references first, then strands, then objects. */
export function checkScene(scene: Scene, adviceOn?: AdviceOn): SceneCheck[] {
  return [...checkConnections(scene), ...checkStrands(scene, adviceOn), ...checkObjects(scene)];
}

/** The advice that a strand's own health gives, as far as it is known. */
type AdviceOn = (strandId: string) => readonly Advice[] | undefined;

/** References to nothing, with the thing that each is about. */
export function checkConnections(scene: Scene): SceneCheck[] {
  return checkReferences(scene).map((finding) => ({
    ...finding,
    about: aboutOf(scene, finding.where),
    change: undefined,
  }));
}

/** The strand, object or sound that a JSON Pointer into a scene points into. */
function aboutOf(scene: Scene, where: string): SceneCheck["about"] {
  const [, list, index] = /^\/(\w+)\/(\d+)/.exec(where) ?? [];
  const at = Number(index);
  if (list === "strands") return scene.strands[at] && { kind: "strand", id: scene.strands[at].id };
  if (list === "objects") return scene.objects[at] && { kind: "object", id: scene.objects[at].id };
  if (list === "sounds") return scene.sounds[at] && { kind: "sound", id: scene.sounds[at].id };
  if (list === "bindings") return scene.bindings[at] && { kind: "object", id: scene.bindings[at].objectId };
  return undefined;
}

/** Strands that move nothing, and what those that move something could do better. */
export function checkStrands(scene: Scene, adviceOn: AdviceOn = () => undefined): SceneCheck[] {
  const driving = new Set(drivingStrands(scene).map(({ id }) => id));
  return scene.strands.flatMap((strand, i): SceneCheck[] => {
    const { id, name, muted } = strand;
    const about = { kind: "strand", id } as const;
    const where = `/strands/${i}`;
    if (!driving.has(id)) {
      if (muted) return [];
      return [
        {
          code: "strand-unconnected",
          what: `The strand "${name}" moves nothing`,
          where,
          remedy: "Bind it to something, or remove it",
          about,
          change: undefined,
        },
      ];
    }
    return (adviceOn(id) ?? []).map(({ code, text, change }) => ({
      code: `strand-${code}`,
      what: `The strand "${name}": ${text.replace(/\.$/, "")}`,
      where,
      remedy: change ? "One press does it" : "Look at it in the Strands view",
      about,
      change,
    }));
  });
}

/** Things that are never seen, or outside of an upright picture. It places everything once: keep its result for a scene. */
export function checkObjects(scene: Scene): SceneCheck[] {
  const state = new SceneState(scene);
  state.advanceTo(0);
  const check = (object: StageObject, code: string, what: string, remedy: string): SceneCheck => ({
    code,
    what,
    where: `/objects/${scene.objects.indexOf(object)}`,
    remedy,
    about: { kind: "object", id: object.id },
    change: undefined,
  });
  const hidden: SceneCheck[] = [];
  const outside: StageObject[] = [];
  for (const object of scene.objects) {
    const plan = state.plan.of(object.id);
    const property = plan && hiddenBy(scene, state, plan);
    if (property) {
      const words = property.toLowerCase();
      hidden.push(
        check(
          object,
          "never-visible",
          `"${object.name}" is never seen: its ${words} rests at 0, and nothing changes it`,
          `Raise its ${words}, bind a strand to it, or remove it`,
        ),
      );
    } else if (plan?.at.growth) {
      const [across, upright] = sharesSeen(state, plan, [ACROSS, UPRIGHT]);
      if (across >= SEEN && upright <= UNSEEN) outside.push(object);
    }
  }
  if (outside.length === 0) return hidden;
  // Parts of one group are told of as one.
  const tops = new Map(outside.map((object) => [object.parentId ?? object.id, object]));
  const names = [...tops].map(
    ([id, object]) => scene.objects.find((one) => one.id === id)?.name ?? object.name,
  );
  const few = names.slice(0, FEW).map((name) => `"${name}"`);
  const more = names.length > FEW ? ` and ${names.length - FEW} more` : "";
  return [
    ...hidden,
    check(
      outside[0],
      "outside-upright",
      `Upright (9:16) the picture leaves out ${few.join(", ")}${more}`,
      "Move what matters towards the middle, or deliver it across",
    ),
  ];
}

/** The property that keeps something from ever being seen, by its label. */
function hiddenBy({ bindings, answers }: Scene, state: SceneState, plan: ObjectPlan): string | undefined {
  const { object } = plan;
  for (const key of ["visibility", "opacity", "scale", "copies"]) {
    if (!plan.at[key] || state.valueOf(object.id, key) > 0) continue;
    if (bindings.some(({ objectId, property }) => objectId === object.id && property === key)) continue;
    const isAnswered = answers.some(({ on, actions }) =>
      actions.some(
        (action) =>
          on &&
          Object.values(action)
            .flat()
            .some((value) => value === object.id),
      ),
    );
    if (!isAnswered) return propertyOf(object, key)?.label ?? key;
  }
  return undefined;
}

/** Shares of something's copies whose middle the scene's camera has in pictures of some shapes, as everything rests. */
function sharesSeen(state: SceneState, plan: ObjectPlan, aspects: readonly number[]): number[] {
  const instances = newInstances(state.placing.maxInstances(plan));
  const count = state.placing.writeInstances(plan, state.timeS, state.values, instances);
  const at = (property: string) => [0, 1, 2].map((axis) => state.valueOf("camera", property, axis));
  const [eye, target] = [at("position"), at("target")];
  const ahead = unit(target.map((one, axis) => one - eye[axis]));
  const right = unit(cross(ahead, [0, 1, 0]));
  const up = cross(right, ahead);
  const half = Math.tan((state.valueOf("camera", "fieldOfView") * Math.PI) / 360);
  const every = Math.max(1, Math.ceil(count / MOST_COPIES));
  const seen = aspects.map(() => 0);
  let looked = 0;
  for (let i = 0; i < count; i += every) {
    looked++;
    const away = [0, 1, 2].map((axis) => instances.matrices[i * 16 + 12 + axis] - eye[axis]);
    const depth = dot(away, ahead);
    if (depth <= 0) continue;
    const [x, y] = [Math.abs(dot(away, right)), Math.abs(dot(away, up))];
    aspects.forEach((aspect, k) => {
      // The field of view is that of the shorter side.
      const height = (depth * half) / Math.min(1, aspect);
      if (y < height && x < height * aspect) seen[k]++;
    });
  }
  return seen.map((one) => one / Math.max(1, looked));
}

const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: number[], b: number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: number[]) => {
  const length = Math.hypot(...a) || 1;
  return a.map((one) => one / length);
};
