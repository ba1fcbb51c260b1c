import {
  CAMERA_OFFERS,
  type CameraOffer,
  LOOKS,
  type LookWay,
  type Meeting,
} from "@bumbrel/core/document/scene";
import { useEditing, useScene } from "../../session/context";
import { Choice } from "../../ui/fields/Choice";
import { Toggle } from "../../ui/fields/Toggle";

/** How the scene is met where it is delivered: what a page offers beside its start. */
export function MeetingPanel() {
  const editing = useEditing();
  const { meeting, beginsAtOnce } = useScene((scene) => ({
    meeting: scene.meeting,
    beginsAtOnce: scene.beginsAtOnce,
  }));
  const set = (change: Partial<Meeting>) =>
    editing.edit("change how it is met", (scene) => {
      Object.assign(scene.meeting, change);
    });
  return (
    <section aria-label="Delivered" className="grid gap-1.5 text-sm text-mist">
      <h2 className="text-base font-semibold text-paper">Delivered pages</h2>
      <div className="flex flex-wrap items-center gap-1.5">
        are seen
        <Choice
          label="How delivered pages are seen"
          value={meeting.look}
          choices={(Object.keys(LOOKS) as LookWay[]).map((look) => [look, LOOKS[look]] as const)}
          onChange={(look) => set({ look })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-1.5">
        and offer
        <Choice
          label="Camera that is offered"
          value={meeting.camera}
          choices={(Object.keys(CAMERA_OFFERS) as CameraOffer[]).map(
            (one) => [one, CAMERA_OFFERS[one]] as const,
          )}
          onChange={(camera) => set({ camera })}
        />
        <Toggle label="Offer a headset" on={meeting.headset} onChange={(on) => set({ headset: on })}>
          a headset
        </Toggle>
        <Toggle label="Offer the visitor’s room" on={meeting.room} onChange={(on) => set({ room: on })}>
          the visitor’s room
        </Toggle>
      </div>
      <div>
        <Toggle
          label="The tape plays at once"
          title="Otherwise it waits for an answer to start it"
          on={beginsAtOnce}
          onChange={(on) =>
            editing.edit("change how it begins", (scene) => {
              scene.beginsAtOnce = on;
            })
          }
        >
          the tape plays at once
        </Toggle>
      </div>
    </section>
  );
}
