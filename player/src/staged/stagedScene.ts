import { hasDrawings } from "@bumbrel/core/analyse/needed";
import type { QualityStep } from "@bumbrel/core/document/scene";
import { readCurves } from "@bumbrel/core/format/curves";
import {
  FogExp2,
  type Group,
  type PerspectiveCamera,
  type Scene as ThreeScene,
  type WebGLRenderer,
} from "three";
import { QUALITY } from "../stage/image/quality";
import { EnvironmentLight } from "../stage/light/environmentLight";
import { Shadows } from "../stage/light/shadows";
import { airLight } from "../stage/objects/overlay";
import { LoadedScene } from "./loadedScene";
import type { StagedDocument } from "./stagedDocument";

export type { StagedDocument };

export interface StagedOptions {
  /** The file `numbers.curves`: what its strands are at each time. */
  curves: ArrayBuffer | Uint8Array;
  /** Gives the bytes of an image, model or panorama of the scene, by its id. */
  asset?(id: string): Promise<ArrayBuffer>;
  /** Gives the font of the scene's words; without it the browser draws them. */
  letters?(): Promise<ArrayBuffer>;
  /** Mono samples at 48 000 Hz by the ids of sounds, for drawings of waveforms. */
  samples?: Readonly<Record<string, Float32Array>>;
  /** How finely round shapes are made, and what `prepare` spends; "desktop" without it. */
  quality?: "film" | "desktop" | "headset" | "phone" | "plain";
  /** True if its backdrop, its light from all round and its fog come along; they do not without it. */
  surroundings?: boolean;
}

/** Scripts that draw run in a thread of their own. */
async function prepareDrawings(): Promise<void> {
  const [{ SCRIPTS_CODE }, { runScriptsIn }] = await Promise.all([
    import("./scriptsCode"),
    import("@bumbrel/core/analyse/scripts/scriptThread"),
  ]);
  const address = URL.createObjectURL(new Blob([SCRIPTS_CODE], { type: "text/javascript" }));
  runScriptsIn(() => new Worker(address));
}

/** Kinds that belong to the whole image rather than to things in it. */
const SURROUNDINGS: ReadonlySet<string> = new Set(["backdrop", "environment", "lens"]);

/**
 * A scene inside somebody's own three.js scene, moved by somebody's own loop: at a time it stands as it does in Bumbrel at
 * that time of the tape, whatever was shown before.
 *
 * @example
 * const staged = await StagedScene.load(await (await fetch("staged.json")).json(), {
 *   curves: await (await fetch("numbers.curves")).arrayBuffer(),
 * });
 * scene.add(staged.root);
 * renderer.setAnimationLoop(() => {
 *   staged.update(music.currentTime, camera);
 *   renderer.render(scene, camera);
 * });
 */
export class StagedScene {
  /** Everything of the scene; add it to your own, and place it where you like. */
  readonly root: Group;
  /** Seconds that its numbers last. */
  readonly lengthS: number;
  private readonly loaded: LoadedScene;
  private readonly quality: QualityStep;
  private readonly fog = new FogExp2(0);
  private lighting:
    | { renderer: WebGLRenderer; scene: ThreeScene; environment: EnvironmentLight; shadows: Shadows }
    | undefined;

  private constructor(loaded: LoadedScene, lengthS: number, quality: QualityStep) {
    this.loaded = loaded;
    this.root = loaded.root;
    this.lengthS = lengthS;
    this.quality = quality;
  }

  /**
   * Reads a scene, and waits until all its images, models and words are there.
   *
   * @throws Error saying where the document is broken, what is wrong with the curves, or which image cannot be read
   */
  static async load(
    document: StagedDocument,
    { curves: bytes, asset, letters, samples, quality = "desktop", surroundings = false }: StagedOptions,
  ): Promise<StagedScene> {
    const { checkStaged } = await import("./checkStaged");
    const { scene: whole, soundsS } = checkStaged(document);
    if (hasDrawings(whole)) await prepareDrawings();
    const objects = whole.objects.filter(({ kind }) => surroundings || !SURROUNDINGS.has(kind));
    const { curves, lengthS } = readCurves(bytes instanceof Uint8Array ? bytes : new Uint8Array(bytes));
    const loaded = await LoadedScene.load({
      scene: { ...whole, objects },
      tracks: new Map(curves.map((curve) => [curve.id, curve])),
      lengthS,
      soundsS,
      ...(samples && { samplesOf: (id: string) => samples[id] }),
      fetchAsset: asset && (({ id }) => asset(id)),
      fetchFont: letters,
      fineness: QUALITY[quality].fineness,
    });
    return new StagedScene(loaded, lengthS, quality);
  }

  /** The scene's own camera: look through it to see what Bumbrel shows. Its shape is yours to set. */
  get camera(): PerspectiveCamera {
    return this.loaded.objects.eye;
  }

  /**
   * Moves everything to where it is at a time. Allocates nothing once all has been seen.
   *
   * @param timeS  seconds on the tape, from 0
   * @param camera  what it is looked at with; the scene's own without it
   */
  update(timeS: number, camera: PerspectiveCamera = this.camera): void {
    this.loaded.update(timeS, camera);
  }

  /**
   * Waits until drawings by programs are at the time of the last `update`. While a game runs they are shown a frame later
   * by themselves; call it after `update` and before `prepare` where every image has to be exact, as in a film.
   */
  async settle(renderer: WebGLRenderer, camera: PerspectiveCamera = this.camera): Promise<void> {
    await Promise.all(this.loaded.objects.drawingBefore.map((one) => one.reachImage?.(renderer, camera)));
  }

  /**
   * Readies what the next image needs beyond the things themselves: shadows, mirrored water, and with `surroundings` the
   * light from all round and the fog. Call it between `update` and your own rendering; leave it out to light everything
   * yourself.
   */
  prepare(renderer: WebGLRenderer, scene: ThreeScene, camera: PerspectiveCamera): void {
    const { surroundings, casting, drawingBefore, hasLitAir, lens } = this.loaded.objects;
    const spending = QUALITY[this.quality];
    if (this.lighting?.renderer !== renderer || this.lighting.scene !== scene) {
      this.lighting?.environment.dispose();
      this.lighting = {
        renderer,
        scene,
        environment: new EnvironmentLight(renderer, scene),
        shadows: new Shadows(renderer),
      };
    }
    const { environment, shadows } = this.lighting;
    if (surroundings) {
      environment.show(surroundings.light, spending.mirrorsEnvironment);
      if (hasLitAir) airLight.value.copy(environment.meanLight(surroundings.light));
    }
    if (lens) {
      this.fog.density = lens.fog;
      this.fog.color.copy(lens.fogColour);
      scene.fog = lens.fog > 0 ? this.fog : null;
    }
    shadows.prepare(casting, camera, spending);
    // Lights that are not the scene's cast shadows as well.
    renderer.shadowMap.needsUpdate = true;
    const { enabled } = renderer.xr;
    renderer.xr.enabled = false;
    for (const rendered of drawingBefore) rendered.beforeImage!(renderer, scene, camera, spending);
    renderer.xr.enabled = enabled;
  }

  /** Lets go of everything on the graphics card. */
  dispose(): void {
    this.loaded.dispose();
    this.lighting?.environment.dispose();
    this.root.removeFromParent();
  }
}
