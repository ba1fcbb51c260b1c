import type { Binding, Scene, StageObject } from "../document/scene";
import { type HexColour, hexToLinear, linearToOklch } from "../setting/colour";
import type { ColourStop } from "../setting/descriptor";
import { colourFor, inksOf, isLightPalette, PALETTES, type PaletteId } from "../setting/palettes";
import { propertiesOf, propertyOf, settingOf, settingsOfKind } from "./table";

/**
 * Gives a new object the colours of its scene's palette: the ink that the fewest others have, and for lights, floors
 * and gradients what the palette has for them.
 */
export function paintNew(
  { palette, objects }: Pick<Scene, "palette" | "objects">,
  object: StageObject,
): void {
  const { id, seed } = palette;
  const inks = inksOf(id, seed);
  const uses = inks.map((ink) => objects.filter(({ rest }) => rest.colour === ink).length);
  const ink = uses.indexOf(Math.min(...uses));
  for (const [key, property] of Object.entries(propertiesOf(object))) {
    if (property.type === "colour" && property.role)
      object.rest[key] = colourFor(property.role, id, seed, ink);
  }
  for (const [key, setting] of Object.entries(settingsOfKind(object.kind))) {
    if (setting.type === "stops") object.settings[key] = gradientOf(object.kind, id, seed, ink);
  }
  if (isLightPalette(id)) coverInsteadOfGlow(object);
}

/** How strongly what glows on a dark sky shines on a light one: its colour alone, so that it is seen as ink. */
const INK_ALONE = { emissionStrength: 0, glow: 1 } as const;

/** Light added to a light sky is not seen: what adds it by default covers the sky instead. */
function coverInsteadOfGlow(object: StageObject): void {
  if (!addsLight(object) || settingOf(object, "blend") !== "add") return;
  object.settings.blend = "normal";
  for (const [key, value] of Object.entries(INK_ALONE)) {
    const isAsNew = object.rest[key] === undefined || object.rest[key] === propertyOf(object, key)?.default;
    if (propertyOf(object, key) && isAsNew) object.rest[key] = value;
  }
}

/** The way back from {@link coverInsteadOfGlow}. */
function glowInsteadOfCover(object: StageObject): void {
  if (!addsLight(object) || settingOf(object, "blend") !== "normal") return;
  delete object.settings.blend;
  for (const [key, value] of Object.entries(INK_ALONE)) {
    if (object.rest[key] === value) delete object.rest[key];
  }
}

const addsLight = ({ kind }: StageObject) => settingsOfKind(kind).blend?.default === "add";

/** A gradient of a palette: of the sky for what is behind everything, else from one ink to another. */
function gradientOf(kind: StageObject["kind"], id: PaletteId, seed: number, ink: number): ColourStop[] {
  const { sky } = PALETTES[id];
  const inks = inksOf(id, seed);
  if (kind === "backdrop") {
    return [
      { at: 0.2, colour: sky.bottom },
      { at: 0.5, colour: sky.horizon },
      { at: 1, colour: sky.top },
    ];
  }
  return [0, 2, 4].map((step, i) => ({ at: i / 2, colour: inks[(ink + step) % inks.length] }));
}

/**
 * Gives a scene another palette, or the same in another order: each of its colours goes to what has its place there.
 * Colours that belong to none of the old ones go where the nearest of them goes, so that nothing stays behind.
 */
export function changePalette(scene: Scene, id: PaletteId, seed: number): void {
  const before = coloursOf(scene.palette.id, scene.palette.seed);
  const after = coloursOf(id, seed);
  const seen = before.map(({ colour }) => oklab(colour));
  const to = (colour: HexColour, isSky = false): HexColour => {
    const exact = before.findIndex((one) => one.colour === colour && one.isSky === isSky);
    if (exact >= 0) return after[exact].colour;
    const [l, a, b] = oklab(colour);
    let nearest = 0;
    let least = Number.POSITIVE_INFINITY;
    before.forEach((one, i) => {
      if (one.isSky !== isSky) return;
      const [l2, a2, b2] = seen[i];
      const distance = Math.hypot((l - l2) * 0.5, a - a2, b - b2);
      if (distance < least) [least, nearest] = [distance, i];
    });
    return after[nearest].colour;
  };
  const stops = (list: readonly ColourStop[], isSky: boolean) =>
    list.map(({ at, colour }) => ({ at, colour: to(colour, isSky) }));
  const kinds = new Map(scene.objects.map((object) => [object.id, object]));
  for (const object of scene.objects) {
    for (const [key, property] of Object.entries(propertiesOf(object))) {
      if (property.type !== "colour" || !property.role) continue;
      const now = object.rest[key] as string | undefined;
      const isSky = isOfSky(property.role);
      if (isSky && object.kind === "backdrop") object.rest[key] = colourFor(property.role, id, seed, 0);
      else object.rest[key] = to(now ?? property.default, isSky);
    }
    for (const [key, setting] of Object.entries(settingsOfKind(object.kind))) {
      if (setting.type !== "stops" || object.settings[key] === undefined) continue;
      object.settings[key] = stops(object.settings[key] as ColourStop[], object.kind === "backdrop");
    }
  }
  if (isLightPalette(id) !== isLightPalette(scene.palette.id)) {
    for (const object of scene.objects) {
      if (isLightPalette(id)) coverInsteadOfGlow(object);
      else glowInsteadOfCover(object);
    }
  }
  scene.bindings = scene.bindings.map((binding) => withStops(binding, kinds, stops));
  scene.palette = { id, seed };
}

function withStops(
  binding: Binding,
  objects: ReadonlyMap<string, StageObject>,
  stops: (list: readonly ColourStop[], isSky: boolean) => ColourStop[],
): Binding {
  const { output } = binding;
  const object = objects.get(binding.objectId);
  const property = object && propertiesOf(object)[binding.property];
  if (output.kind !== "colours" || property?.type !== "colour" || !property.role) return binding;
  return { ...binding, output: { ...output, stops: stops(output.stops, isOfSky(property.role)) } };
}

const isOfSky = (role: string) => ["top", "horizon", "bottom", "floor"].includes(role);

/** All colours of a palette in one order: those of the sky and floor, then lamp and inks. */
function coloursOf(id: PaletteId, seed: number): { colour: HexColour; isSky: boolean }[] {
  const { sky, floor, lamp } = PALETTES[id];
  return [
    ...[sky.top, sky.horizon, sky.bottom, floor].map((colour) => ({ colour, isSky: true })),
    ...[...inksOf(id, seed), lamp].map((colour) => ({ colour, isSky: false })),
  ];
}

function oklab(colour: HexColour): [number, number, number] {
  const [lightness, chroma, hue] = linearToOklch(hexToLinear(colour));
  return [lightness, chroma * Math.cos(hue), chroma * Math.sin(hue)];
}
