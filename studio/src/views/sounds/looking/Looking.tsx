import { runningOf } from "@bumbrel/core/document/strands/running";
import { isLive, type Sound } from "@bumbrel/core/sound/kinds";
import { Maximize2, ZoomIn, ZoomOut } from "lucide-react";
import { useRef, useState } from "react";
import { useNumbers, usePlayer, useProjectId, useResult, useScene } from "../../../session/context";
import { type LookTools, useLooking, useUi } from "../../../session/viewState";
import { IconButton } from "../../../ui/Button";
import { Choice } from "../../../ui/fields/Choice";
import { Toggle } from "../../../ui/fields/Toggle";
import { useFrame } from "../../../ui/live/frames";
import { AverageLook } from "./AverageLook";
import { LoudnessLook, SpectrogramLook, WaveformLook } from "./overTime";
import { SpectrumLook } from "./SpectrumLook";
import { following, type TimeView, zoomed } from "./timeView";

const TOOLS = [
  ["waveform", "waveform"],
  ["spectrogram", "spectrogram"],
  ["loudness", "loudness"],
  ["spectrum", "spectrum"],
  ["average", "average"],
] as const;

/** Ways to look at a sound; hidden ones are not drawn and cost nothing. */
export function Looking({ sound }: { sound: Sound }) {
  const numbers = useNumbers();
  const player = usePlayer();
  const projectId = useProjectId();
  const lengthS = useResult(({ library }) => library.lengthOf(sound));
  const groups = useScene((scene) => scene.groups);
  const others = useScene(({ sounds }) =>
    sounds.filter(({ id, kind }) => id !== sound.id && kind !== "keys"),
  );
  const looking = useLooking(projectId);
  const look = useUi((state) => state.look);
  const { tools, axis } = looking;
  const [otherId, setOtherId] = useState("");
  const readout = useRef<HTMLSpanElement>(null);
  const view = useRef<TimeView>({ fromS: 0, toS: 0 });
  if (view.current.toS === 0 && lengthS > 0) view.current = { fromS: 0, toS: lengthS };
  const set = (change: Partial<LookTools>) => look(projectId, { tools: { ...tools, ...change } });
  const zoom = (by: number) => {
    const { fromS, toS } = view.current;
    const at = (numbers.positionOf(sound, player.transport.positionS()) - fromS) / (toS - fromS);
    view.current = zoomed(view.current, by, at >= 0 && at <= 1 ? at : 0.5, lengthS);
  };
  useFrame((timeS) => {
    if (!tools.follow || player.transport.state !== "playing") return;
    view.current = following(view.current, numbers.positionOf(sound, timeS), lengthS);
  });
  const read = (text: string | undefined) => {
    if (readout.current) readout.current.textContent = text ?? "";
  };
  const overTime = !isLive(sound);
  const other = others.find(({ id }) => id === otherId);
  const props = { sound, view, read };
  const { runs, loops } = runningOf({ groups }, sound);
  const onTape = runs === "tape" && !loops;
  return (
    <div className="grid min-w-0 content-start gap-2">
      <div className="flex flex-wrap items-center gap-1">
        {TOOLS.filter(([tool]) => overTime || tool === "spectrum").map(([tool, words]) => (
          <Toggle
            key={tool}
            label={tools[tool] ? `Put the ${words} away` : `Show the ${words}`}
            on={tools[tool]}
            onChange={(on) => set({ [tool]: on })}
          >
            {words}
          </Toggle>
        ))}
        {overTime && (
          <>
            <span className="grow" />
            <Toggle label="Follow the playhead" on={tools.follow} onChange={(follow) => set({ follow })}>
              follow
            </Toggle>
            <IconButton label="Zoom in" small onClick={() => zoom(0.5)}>
              <ZoomIn size={16} />
            </IconButton>
            <IconButton label="Zoom out" small onClick={() => zoom(2)}>
              <ZoomOut size={16} />
            </IconButton>
            <IconButton
              label="Zoom to all of it"
              small
              onClick={() => {
                view.current = { fromS: 0, toS: lengthS };
              }}
            >
              <Maximize2 size={15} />
            </IconButton>
          </>
        )}
      </div>
      {overTime && tools.waveform && <WaveformLook {...props} canLoop={onTape} />}
      {overTime && tools.spectrogram && <SpectrogramLook {...props} axis={axis} />}
      {overTime && tools.loudness && <LoudnessLook {...props} />}
      {overTime && tools.average && <AverageLook sound={sound} />}
      {tools.spectrum && (
        <>
          <SpectrumLook sound={sound} other={other} axis={axis} tools={tools} read={read} />
          <div className="flex flex-wrap items-center gap-1 text-sm text-mist">
            <Choice
              label="Spectrum drawn as"
              value={tools.style}
              choices={["line", ["filled", "filled shape"], "bars"]}
              onChange={(style) => set({ style })}
            />
            <Choice
              label="Frequency axis"
              value={axis}
              choices={[
                ["log", "log Hz"],
                ["linear", "linear Hz"],
              ]}
              onChange={(next) => look(projectId, { axis: next })}
            />
            <Choice
              label="Level axis"
              value={tools.level}
              choices={[
                ["dB", "dB"],
                ["linear", "linear level"],
              ]}
              onChange={(level) => set({ level })}
            />
            beside
            <Choice
              label="Compare with"
              className="w-32"
              value={other?.id ?? ""}
              choices={[["", "nothing"], ...others.map(({ id, name }) => [id, name] as const)]}
              onChange={setOtherId}
            />
          </div>
        </>
      )}
      <p className="figures h-5 truncate text-sm text-paper">
        <span ref={readout} />
      </p>
    </div>
  );
}
