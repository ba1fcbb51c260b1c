import type { Action } from "../action/answer";
import type { Scene } from "../document/scene";

/** A property that an action may change. */
export interface Changed {
  objectId: string;
  property: string;
}

/** The properties that an action may change. */
export function changedBy(action: Action): Changed[] {
  switch (action.kind) {
    case "glide":
    case "kick":
    case "stepColours":
      return action.objectId === null ? [] : [{ objectId: action.objectId, property: action.property }];
    case "show":
      return action.objectId === null ? [] : [{ objectId: action.objectId, property: "visibility" }];
    case "stepThings":
      return action.objectIds.map((objectId) => ({ objectId, property: "visibility" }));
    case "stepViews":
      return CAMERA_VIEW.map((property) => ({ objectId: "camera", property }));
    default:
      return [];
  }
}

/** Properties of the camera that a viewpoint has too. */
export const CAMERA_VIEW = ["position", "target", "fieldOfView"] as const;

/** The properties that the answers of a scene may change, by object. */
export function changedByAnswers(scene: Scene): ReadonlyMap<string, ReadonlySet<string>> {
  const changed = new Map<string, Set<string>>();
  for (const { on, actions } of scene.answers) {
    if (!on) continue;
    for (const { objectId, property } of actions.flatMap(changedBy)) {
      const known = changed.get(objectId);
      if (known) known.add(property);
      else changed.set(objectId, new Set([property]));
    }
  }
  return changed;
}
