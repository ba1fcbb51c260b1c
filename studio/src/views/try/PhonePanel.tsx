import type { CameraPicture } from "@bumbrel/player/camera/madeUpCamera";
import { Compass, RotateCcwSquare, RotateCwSquare } from "lucide-react";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { Toggle } from "../../ui/fields/Toggle";
import { LiveText } from "../../ui/live/LiveText";
import { CAMERAS, type CameraChoice, PHONE_SIZES, type PhoneSize, type PhoneState } from "./phone";

/** How the phone is held, and what its camera sees. */
export function PhonePanel({
  phone,
  camera,
  problem,
  onChange,
  onLevel,
  onMotion,
}: {
  phone: PhoneState;
  camera: CameraPicture | undefined;
  problem: string | undefined;
  onChange(change: Partial<PhoneState>): void;
  onLevel(): void;
  onMotion(): void;
}) {
  return (
    <div className="grid gap-2 text-sm text-mist">
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice
          label="Size of the phone"
          value={phone.size}
          choices={(Object.keys(PHONE_SIZES) as PhoneSize[]).map(
            (size) => [size, PHONE_SIZES[size].label] as const,
          )}
          onChange={(size) => onChange({ size })}
        />
        <Toggle
          label="Held across"
          on={!phone.isUpright}
          onChange={(isAcross) => onChange({ isUpright: !isAcross })}
        >
          {phone.isUpright ? (
            <RotateCwSquare size={14} aria-hidden />
          ) : (
            <RotateCcwSquare size={14} aria-hidden />
          )}
          across
        </Toggle>
      </div>
      <div className="flex items-center gap-1.5">
        Camera
        <Choice
          label="Camera"
          value={phone.camera}
          choices={(Object.keys(CAMERAS) as CameraChoice[]).map((one) => [one, CAMERAS[one]] as const)}
          onChange={(next) => onChange({ camera: next })}
        />
      </div>
      {problem !== undefined && (
        <p role="alert" className="text-alarm">
          {problem}
        </p>
      )}
      {camera && (
        <p>
          Outline of the person:{" "}
          <LiveText
            className="text-paper"
            text={() => {
              const { mask, delayMs = 0, tookMs } = camera;
              if (mask === undefined) return "nobody found yet";
              const found = tookMs === undefined ? "" : `, found in ${Math.round(tookMs)} ms`;
              return `${Math.round(delayMs)} ms late${found}`;
            }}
          />
        </p>
      )}
      <p>
        The effects of the lens are left out on a camera’s picture. Where each thing stands, behind or before
        the person, is set under Place in its sheet.
      </p>
      <div className="flex gap-1.5">
        <Button className="text-sm" onClick={onLevel}>
          Hold it level
        </Button>
        <Button className="text-sm" onClick={onMotion}>
          <Compass size={13} aria-hidden /> Use this device’s motion
        </Button>
      </div>
    </div>
  );
}
