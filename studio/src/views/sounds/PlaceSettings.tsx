import { analysedDistanceGain, restingDistance } from "@bumbrel/core/analyse/listening";
import { can } from "@bumbrel/core/kinds/table";
import { newPlace, type Place, type Sound } from "@bumbrel/core/sound/kinds";
import { useEditing, useScene } from "../../session/context";
import { editSound } from "../../session/edits/sounds";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { NumberField } from "../../ui/fields/NumberField";
import { Toggle } from "../../ui/fields/Toggle";
import { formatDb } from "../../ui/format";

const AXES = ["right", "up", "towards you"];

/** Position of a sound on the stage, and the effect of its distance. */
export function PlaceSettings({ sound }: { sound: Sound }) {
  const editing = useEditing();
  const { place } = sound;
  const things = useScene(({ objects }) => objects.filter(({ kind }) => can(kind).placement !== undefined));
  const { distanceM, gain } = useScene((scene) =>
    place
      ? {
          distanceM: restingDistance(scene, place),
          gain: analysedDistanceGain(scene, { ...sound, place: { ...place, analysedFollows: true } }),
        }
      : { distanceM: 0, gain: 1 },
  );
  const set = (change: Partial<Place> | null) =>
    editSound(editing, sound, change ? "place" : "take away the place of", (one) => {
      one.place = change && newPlace({ ...one.place, ...change });
    });
  if (!place) {
    return (
      <div className="flex items-center gap-2 text-sm text-mist">
        <Button className="text-sm" onClick={() => set({})}>
          Give it a place on the stage
        </Button>
        so that it gets quieter further away.
      </div>
    );
  }
  const metres = (
    label: string,
    value: number,
    [min, max]: [number, number],
    apply: (m: number) => Partial<Place>,
  ) => (
    <NumberField
      label={label}
      unit="m"
      value={value}
      min={min}
      max={max}
      step={0.1}
      chars={5}
      onChange={(to) => set(apply(to))}
    />
  );
  return (
    <div className="grid gap-1.5 text-sm text-mist">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        Stands
        {AXES.map((axis, i) => (
          <span key={axis} className="inline-flex items-baseline gap-1">
            {metres(`Place ${axis}`, place.position[i], [-1000, 1000], (to) => ({
              position: place.position.map((at, k) => (k === i ? to : at)) as Place["position"],
            }))}
            {axis}
          </span>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        moves with
        <Choice
          label="Moves with"
          className="max-w-40"
          value={place.objectId ?? ""}
          choices={[["", "its own place"], ...things.map(({ id, name }) => [id, name] as const)]}
          onChange={(objectId) => set({ objectId: objectId || null })}
        />
        <Toggle
          label="Heard from its side"
          title="Both ears hear it as if it came from there, wherever the listener turns"
          on={place.fromItsSide}
          onChange={(fromItsSide) => set({ fromItsSide })}
        >
          heard from its side
        </Toggle>
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        full level up to
        {metres("Reference distance", place.referenceM, [0.1, 1000], (referenceM) => ({ referenceM }))}
        then falling to
        {metres("Maximum distance", place.maximumM, [0.1, 10_000], (maximumM) => ({ maximumM }))}
        roll-off
        <NumberField
          label="Roll-off"
          value={place.rollOff}
          min={0}
          max={10}
          step={0.1}
          chars={4}
          onChange={(rollOff) => set({ rollOff })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <Toggle
          label="Loudness follows the distance"
          on={place.heardFollows}
          onChange={(heardFollows) => set({ heardFollows })}
        >
          loudness follows
        </Toggle>
        <Toggle
          label="Silent beyond the maximum distance"
          title="It falls to silence there instead of staying as loud as it is then"
          on={place.silentBeyond}
          onChange={(silentBeyond) => set({ silentBeyond })}
        >
          silent beyond
        </Toggle>
        <Toggle
          label="Strands follow the distance"
          title="From where the camera rests, so that the numbers stay the same everywhere"
          on={place.analysedFollows}
          onChange={(analysedFollows) => set({ analysedFollows })}
        >
          strands follow
        </Toggle>
        <span>
          camera at {distanceM.toFixed(1)} m: {formatDb(gain)}
        </span>
        <Button className="text-sm" onClick={() => set(null)}>
          Take the place away
        </Button>
      </div>
    </div>
  );
}
