import {
  BufferAttribute,
  BufferGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  RingGeometry,
} from "three";
import type { ScenePlayer } from "../scenePlayer";
import type { Stage } from "../stage/stage";
import { MARK_COLOUR, ZoneOutline } from "../stage/zoneOutline";

/** Parts of a visited scene that are there and cannot be seen. */
export const UNSEEN_PARTS = {
  zones: { label: "zones", help: "Outlines of the zones; brighter while somebody is inside" },
  bodies: {
    label: "solid shapes",
    help: "The shapes that solid things have for each other and for visitors",
  },
  feet: { label: "your feet", help: "The place where the visitor stands, and the direction they face" },
} as const;
export type UnseenPart = keyof typeof UNSEEN_PARTS;

const BODY_COLOUR = 0x6fc7c1;
const DIM = 0.35;
const FEET_RADIUS_M = 0.3;
/** Above the floor, so that it does not flicker with it. */
const ABOVE_FLOOR_M = 0.01;

/** Draws parts of a visited scene that are unseen, over the image or, in a headset, within the scene. */
export class UnseenParts {
  private readonly player: ScenePlayer;
  private readonly stage: Stage;
  private readonly root = new Group();
  private readonly zones = new Map<string, ZoneOutline>();
  private readonly bodies = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: BODY_COLOUR, transparent: true, opacity: 0.7, toneMapped: false }),
  );
  private readonly feet = feetMark();
  private shown: ReadonlySet<UnseenPart> = new Set();
  private readonly stop: () => void;

  constructor(player: ScenePlayer, stage: Stage) {
    this.player = player;
    this.stage = stage;
    this.bodies.frustumCulled = false;
    this.root.add(this.bodies, this.feet);
    this.stop = player.beforeFrame(() => this.follow());
  }

  show(parts: ReadonlySet<UnseenPart>): void {
    this.shown = parts;
    if (parts.size === 0) this.root.removeFromParent();
    this.stage.redraw();
  }

  private follow(): void {
    const { shown, stage, player, root } = this;
    if (shown.size === 0) return;
    const home = stage.presentation === "screen" ? stage.overlay : stage.three;
    if (root.parent !== home) home.add(root);
    const { answering } = player.state.simulation;
    for (const [id, entry] of stage.entries) if (entry.source.object.kind === "zone") this.showZone(id);
    for (const [id, zone] of this.zones) {
      if (stage.entries.has(id) && shown.has("zones")) continue;
      zone.dispose();
      this.zones.delete(id);
    }
    this.bodies.visible = shown.has("bodies") && answering?.bodies !== undefined;
    if (this.bodies.visible) {
      this.showBodies(answering!.bodies!.outlines());
    }
    const feet = shown.has("feet") ? answering?.feet : undefined;
    this.feet.visible = feet !== undefined;
    if (feet) {
      this.feet.position.set(feet.place[0], feet.place[1] + ABOVE_FLOOR_M, feet.place[2]);
      this.feet.rotation.y = (feet.yaw * Math.PI) / 180;
    }
    stage.redraw();
  }

  /** @param ends  of lines, x, y and z of each */
  private showBodies(ends: Float32Array): void {
    const { geometry } = this.bodies;
    const kept = geometry.getAttribute("position") as BufferAttribute | undefined;
    if (kept?.array.length !== ends.length) {
      geometry.dispose();
      geometry.setAttribute("position", new BufferAttribute(ends.slice(), 3));
      return;
    }
    kept.array.set(ends);
    kept.needsUpdate = true;
  }

  private showZone(id: string): void {
    if (!this.shown.has("zones")) return;
    let zone = this.zones.get(id);
    if (!zone) {
      zone = new ZoneOutline();
      this.zones.set(id, zone);
      this.root.add(zone.lines);
    }
    zone.lines.visible = zone.follow(this.stage, id, this.stage.entries.get(id)!);
    const { answering } = this.player.state.simulation;
    zone.lines.material.opacity = (answering?.insideOf(id).length ?? 0) > 0 ? 1 : DIM;
  }

  dispose(): void {
    this.stop();
    this.root.removeFromParent();
    for (const zone of this.zones.values()) zone.dispose();
    this.bodies.geometry.dispose();
    this.bodies.material.dispose();
    for (const part of this.feet.children as Mesh[]) part.geometry.dispose();
  }
}

/** A ring on the floor, with two feet in it that point away from the viewer. */
function feetMark(): Group {
  const material = new MeshBasicMaterial({ color: MARK_COLOUR, toneMapped: false, depthTest: false });
  const flat = (geometry: RingGeometry) => new Mesh(geometry.rotateX(-Math.PI / 2), material);
  const mark = new Group().add(flat(new RingGeometry(FEET_RADIUS_M - 0.02, FEET_RADIUS_M, 40)));
  for (const side of [-1, 1]) {
    const foot = flat(new RingGeometry(0, 0.055, 20));
    foot.scale.z = 2.3;
    foot.position.x = side * 0.1;
    mark.add(foot);
  }
  mark.visible = false;
  return mark;
}
