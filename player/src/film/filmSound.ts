import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { SOUND_PIECE } from "@bumbrel/core/document/film/filmPieces";
import { TAPE_UNIT, type UnitEvent } from "@bumbrel/core/document/take/units";
import { Deck } from "../audio/deck";
import { Mixer } from "../audio/mixer";
import { deckSounds, type PlayableSound } from "../audio/transport";
import type { FilmScene } from "./filmScene";

/** Mixed before each piece and not heard: until then levels have reached their places, and both ears their echoes. */
const LEAD = SAMPLE_RATE_HZ / 2;
/** Times a second that levels follow what moves. */
const FOLLOWED_HZ = 60;
const CHANNELS = 2;

/**
 * The sound of a film, as it is heard live: the same sounds through the same faders, pans and buses, mixed without playing
 * them.
 *
 * @returns left and right at 48 kHz, piece after piece; together as long as the film's picture, to the sample
 */
export async function* filmSound(film: FilmScene): AsyncGenerator<[Float32Array, Float32Array]> {
  const { samples } = film.plan;
  for (let from = 0; from < samples; from += SOUND_PIECE) {
    yield await mixPiece(film, from, Math.min(samples, from + SOUND_PIECE));
  }
}

/** Mixes the samples of a film from one to another, that one not included. */
async function mixPiece(film: FilmScene, from: number, to: number): Promise<[Float32Array, Float32Array]> {
  const { source, player, plan } = film;
  const context = new OfflineAudioContext(CHANNELS, LEAD + to - from, SAMPLE_RATE_HZ);
  let atS = 0;
  const mixer = new Mixer(context, () => atS);
  mixer.set(source.sounds, source.scene.buses, new Set());
  // The time before a piece is mixed as well; nothing sounds before the film.
  const start = Math.max(0, from - LEAD);
  const contextFrameOf = (sample: number) => sample - from + LEAD;
  const filmS = (sample: number) => plan.fromS + sample / SAMPLE_RATE_HZ;
  const { isMoving } = film;
  if (isMoving) {
    const steps = Math.ceil(((to - start) / SAMPLE_RATE_HZ) * FOLLOWED_HZ);
    for (let step = 0; step <= steps; step++) {
      const sample = Math.min(to, start + (step * SAMPLE_RATE_HZ) / FOLLOWED_HZ);
      // The state at the film's beginning is set before it begins.
      atS = step === 0 ? 0 : contextFrameOf(sample) / SAMPLE_RATE_HZ;
      film.follow(filmS(sample));
      player.followMix(filmS(sample), mixer);
    }
  }
  const { units } = film;
  for (const [unitId, members] of unitsOf(source.sounds)) {
    const entryOf = (id: string) => mixer.entryOf(id);
    let deck: Deck | undefined;
    const begin = (sample: number, event: UnitEvent | undefined) => {
      const timeS = filmS(sample);
      if (!units.isRunning(unitId, timeS)) return;
      const sounds = deckSounds(members);
      const length = Math.max(...members.map(({ channels }) => channels![0].length));
      const loop = event?.loops
        ? {
            from: Math.round((event.fromS ?? 0) * SAMPLE_RATE_HZ),
            to: Math.round(event.lengthS * SAMPLE_RATE_HZ),
          }
        : undefined;
      const position = Math.round(units.positionS(unitId, timeS) * SAMPLE_RATE_HZ);
      if (!loop && position >= length) return;
      deck = new Deck();
      deck.load(sounds, loop);
      deck.place(position);
      deck.start(contextFrameOf(sample));
      deck.pump(context, contextFrameOf(to), entryOf);
    };
    begin(start, units.lastOf(unitId, filmS(start)));
    for (const event of units.events) {
      if (event.unitId !== unitId || event.timeS <= filmS(start) || event.timeS >= filmS(to)) continue;
      const sample = Math.round((event.timeS - plan.fromS) * SAMPLE_RATE_HZ);
      deck?.stopAt(contextFrameOf(sample));
      deck = undefined;
      begin(sample, event);
    }
  }
  const mixed = await context.startRendering();
  return [mixed.getChannelData(0).subarray(LEAD), mixed.getChannelData(1).subarray(LEAD)];
}

/** Sounds that have samples, by what they run with. */
function unitsOf(sounds: readonly PlayableSound[]): Map<string, PlayableSound[]> {
  const units = new Map<string, PlayableSound[]>();
  for (const sound of sounds) {
    if (!sound.channels) continue;
    const unit = sound.runs === "tape" ? TAPE_UNIT : sound.unitId;
    units.set(unit, [...(units.get(unit) ?? []), sound]);
  }
  return units;
}
