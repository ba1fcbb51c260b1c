import type { Scene } from "@bumbrel/core/document/scene";
import type { Take } from "@bumbrel/core/document/take/take";
import type { Track } from "@bumbrel/core/strand/track";
import { playableSounds } from "@bumbrel/player/audio/sceneMix";
import type { PlayableSound } from "@bumbrel/player/audio/transport";
import type { FilmSource } from "@bumbrel/player/film/filmScene";
import type { ScenePlayer } from "@bumbrel/player/scenePlayer";
import type { AnalysisClient } from "../analysis/analysisClient";
import type { DocumentStore } from "../document/documentStore";
import type { SoundLibrary } from "../library/soundLibrary";
import { fetchAsset, fetchFont } from "../library/stageFiles";
import type { Audition } from "./audition";
import type { ProgramPermission } from "./programPermission";

interface Parts {
  document: DocumentStore;
  player: ScenePlayer;
  library: SoundLibrary;
  analysis: AnalysisClient;
  audition: Audition;
  programs: ProgramPermission;
}

/** Keeps the player, the loaded sounds and the analysis in line with the document. */
export class Playback {
  private readonly parts: Parts;
  private played: Scene | undefined;
  private playedSounds: readonly unknown[] = [];
  private isTracksDue = false;
  private startS = 0;
  private aloneStarts = new Map<string, number>();

  constructor(parts: Parts) {
    this.parts = parts;
    // Strands that are finished within one frame are handed to the player together.
    parts.player.onFrame(() => {
      if (this.isTracksDue) this.giveTracks();
    });
  }

  /**
   * Seeks to positions from an earlier visit as soon as there are sounds to have one.
   *
   * @param alone  those of sounds that run by themselves
   */
  startAt(timeS: number, alone: Readonly<Record<string, number>>): void {
    this.startS = timeS;
    this.aloneStarts = new Map(Object.entries(alone));
  }

  /** Has the scene played and analysed as it is now. */
  follow(): void {
    const { document, player, library, analysis, audition, programs } = this.parts;
    const scene = programs.allowedPart(audition.played(document.scene));
    const before = this.played;
    if (scene === before) return;
    this.played = scene;
    player.setScene(scene);
    if (scene.sounds !== before?.sounds) library.follow(scene);
    if (scene.sounds !== before?.sounds || scene.buses !== before.buses || scene.groups !== before.groups) {
      this.playSounds();
    }
    if (scene.strands !== before?.strands) audition.follow(scene);
    analysis.follow(scene);
    if (!analysis.isComplete) player.expectTracks();
  }

  /** Gives the player the sounds that are loaded and heard. */
  playSounds(): void {
    const { document, player, library, audition } = this.parts;
    const { scene } = document;
    player.transport.setSounds(this.playable(), scene.buses, new Set(audition.solo));
    const loaded = scene.sounds.map((sound) => library.soundOf(sound));
    const isSame =
      loaded.length === this.playedSounds.length && loaded.every((one, i) => one === this.playedSounds[i]);
    if (isSame) return;
    this.playedSounds = loaded;
    player.setSamples(
      new Map(scene.sounds.flatMap(({ id }, i) => (loaded[i] ? [[id, loaded[i].mono]] : []))),
    );
  }

  /** A sound has been loaded. */
  soundLoaded(): void {
    const { transport } = this.parts.player;
    this.parts.analysis.soundLoaded();
    this.playSounds();
    if (this.startS > 0 && this.startS <= transport.durationS) {
      transport.seek(this.startS);
      this.startS = 0;
    }
    for (const [unit, timeS] of this.aloneStarts) {
      if (timeS > transport.unitDurationS(unit)) continue;
      transport.seekUnit(unit, timeS);
      this.aloneStarts.delete(unit);
    }
  }

  /** Numbers of strands have changed: the player gets them with the next frame. */
  tracksChanged(): void {
    this.isTracksDue = true;
  }

  /** Source of a film of the scene as it is now: later edits are not in it. */
  filmSource(take: Take | undefined): FilmSource {
    const { player } = this.parts;
    return {
      scene: player.scene,
      tracks: player.givenTracks,
      samples: player.givenSamples,
      sounds: this.playable(),
      take,
      fetchAsset,
      fetchFont,
    };
  }

  private playable(): PlayableSound[] {
    const { document, library } = this.parts;
    return playableSounds(document.scene, (sound) => library.soundOf(sound)?.channels);
  }

  private giveTracks(): void {
    const { document, player, library, analysis } = this.parts;
    this.isTracksDue = false;
    const tracks = new Map<string, Track>();
    for (const [id, { shaped }] of analysis.traces) tracks.set(id, shaped);
    player.setTracks(tracks, analysis.isComplete && library.isComplete(document.scene));
  }
}
