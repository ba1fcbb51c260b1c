import type { Scene } from "../document/scene";
import { MAX_ITEMS, type SceneList } from "../document/sceneLimits";
import type { Finding } from "../errors";
import { MAX_COPIES } from "../kinds/shared";
import { hasCopies, propertyOf } from "../kinds/table";
import type { NumberProperty } from "../setting/property";
import { isMade } from "../sound/kinds";

/** Limits of a whole document, beside those of its parts: as much as the fastest machines can still play. */
export const DOCUMENT_BUDGET = {
  /** Copies of all objects together, those of groups counted for everything in them. */
  copies: 250_000,
  /** Seconds of tones, noises and clocks together. */
  madeSoundS: 3 * 3600,
  /** Groups within groups. */
  nesting: 64,
  /** Lists and objects within each other in the text of a document. */
  depth: 64,
  /** Numbers, texts, lists and objects in it. */
  values: 2_000_000,
  /** Letters of all texts and keys. */
  letters: 16_000_000,
} as const;

/**
 * Counts parsed JSON before it is migrated and validated, which takes time that grows with its size.
 *
 * @returns the first limit that it exceeds
 */
export function checkSize(document: unknown): Finding | undefined {
  const over = (what: string) => ({
    code: "document-too-large",
    what,
    where: "",
    remedy: "Choose a scene that Bumbrel wrote, or split this one into several projects",
  });
  let values = 0;
  let letters = 0;
  let level: unknown[] = [document];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > DOCUMENT_BUDGET.depth) return over(`it is nested more than ${DOCUMENT_BUDGET.depth} deep`);
    const below: unknown[] = [];
    for (const one of level) {
      if (typeof one === "string") letters += one.length;
      if (typeof one !== "object" || one === null) continue;
      if (Array.isArray(one)) values += one.length;
      else for (const key of Object.keys(one)) letters += key.length;
      const inside = Object.values(one);
      values += Array.isArray(one) ? 0 : inside.length;
      if (values > DOCUMENT_BUDGET.values) return over(`it holds more than ${DOCUMENT_BUDGET.values} values`);
      for (const value of inside) below.push(value);
    }
    if (letters > DOCUMENT_BUDGET.letters)
      return over(`its texts have more than ${DOCUMENT_BUDGET.letters} letters`);
    level = below;
  }
  return undefined;
}

/** Finds totals of a scene that are more than a project may hold or can play, although each part is within its limits. */
export function checkBudget(scene: Scene): Finding[] {
  const findings: Finding[] = [];
  const over = (code: string, what: string, where: string, remedy: string) =>
    findings.push({ code, what, where, remedy });
  for (const list of Object.keys(MAX_ITEMS) as SceneList[]) {
    if (scene[list].length <= MAX_ITEMS[list]) continue;
    over(
      `too-many-${list}`,
      `it holds ${scene[list].length} ${list}, more than the ${MAX_ITEMS[list]} that a project may have`,
      `/${list}`,
      "Remove some that are not needed, or use another project",
    );
  }
  const byId = new Map(scene.objects.map((object) => [object.id, object]));
  const bound = new Set(
    scene.bindings.filter(({ property }) => property === "copies").map(({ objectId }) => objectId),
  );
  const most = (object: Scene["objects"][number]): number => {
    if (!hasCopies(object)) return 1;
    if (bound.has(object.id)) return MAX_COPIES;
    const declared = propertyOf(object, "copies") as NumberProperty;
    return Math.max(1, Number(object.rest.copies ?? declared.default));
  };
  let copies = 0;
  for (const [i, object] of scene.objects.entries()) {
    const seen = new Set<string>();
    let here = 1;
    for (let up: typeof object | undefined = object; up && !seen.has(up.id); ) {
      seen.add(up.id);
      here = Math.min(MAX_COPIES, here * most(up));
      up = up.parentId === null ? undefined : byId.get(up.parentId);
    }
    if (seen.size > DOCUMENT_BUDGET.nesting) {
      over(
        "groups-too-deep",
        `"${object.name}" is in more than ${DOCUMENT_BUDGET.nesting} groups within each other`,
        `/objects/${i}/parentId`,
        "Take it out of some of them",
      );
      break;
    }
    copies += here;
  }
  if (copies > DOCUMENT_BUDGET.copies) {
    over(
      "too-many-copies",
      `its objects have ${copies} copies together, more than the ${DOCUMENT_BUDGET.copies} that can be played`,
      "/objects",
      "Lower the copies of some formations",
    );
  }
  const madeS = scene.sounds.reduce((sum, sound) => sum + (isMade(sound) ? sound.seconds : 0), 0);
  if (madeS > DOCUMENT_BUDGET.madeSoundS) {
    over(
      "made-sounds-too-long",
      `its tones, noises and clocks last ${Math.round(madeS / 60)} minutes together, more than ${DOCUMENT_BUDGET.madeSoundS / 60}`,
      "/sounds",
      "Shorten some of them",
    );
  }
  return findings;
}
