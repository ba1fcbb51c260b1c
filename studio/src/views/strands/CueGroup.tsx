import type { Strand } from "@bumbrel/core/document/scene";
import { CUE_RULE_NAMES, CUE_RULES, CUE_SETTINGS, type CueSettingName } from "@bumbrel/core/strand/cues";
import { Volume2 } from "lucide-react";
import { Choice } from "../../ui/Choice";
import { SliderField } from "../../ui/SliderField";
import { Toggle } from "../../ui/Toggle";
import { useResults, useWorkbench } from "../project/context";
import { editStrand } from "./edits";
import { SwitchDot } from "./SwitchDot";

/** How a strand's number becomes cues. */
export function CueGroup({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  useResults();
  const { cues } = strand;
  const rule = CUE_RULES[cues.rule];
  const count = workbench.analysis.traces.get(strand.id)?.cues.length ?? 0;
  const set = (change: object, gesture?: string) =>
    editStrand(
      workbench,
      strand.id,
      `change the cues of ${strand.name}`,
      (draft) => Object.assign(draft.cues, change),
      gesture,
    );
  const isHeard = workbench.audition.clicking.has(strand.id);
  return (
    <section aria-label="Cues" className="grid min-w-0 content-start gap-1">
      <div className="flex h-6 items-center gap-2">
        <span title={rule.help}>Cues</span>
        <Choice
          label="Cue rule"
          className="w-36"
          value={cues.rule}
          choices={CUE_RULE_NAMES.map((name) => [name, CUE_RULES[name].label] as const)}
          onChange={(next) => set({ rule: next, on: true })}
        />
        <Toggle
          label={isHeard ? "Stop the clicks" : "Hear each cue as a click"}
          on={isHeard}
          onChange={(on) => workbench.audition.setClicking(strand.id, on)}
        >
          <Volume2 size={13} aria-hidden />
        </Toggle>
        <span className="text-sm whitespace-nowrap text-mist">
          <span className="figures text-paper">{cues.on ? count : 0}</span> cues
        </span>
        <SwitchDot label="Cues on" on={cues.on} onChange={(on) => set({ on })} />
      </div>
      <div className="grid grid-cols-2 gap-x-4">
        {rule.settings.map((key: CueSettingName) => {
          const { label, unit, min, max, step, default: resetTo } = CUE_SETTINGS[key];
          return (
            <SliderField
              key={key}
              {...{ label, unit, min, max, step, resetTo }}
              chars={4}
              curve={key === "gapMs" ? "square" : "linear"}
              value={cues[key]}
              disabled={!cues.on}
              onChange={(value) => set({ [key]: value }, `${strand.id} cues ${key}`)}
              onDone={() => workbench.endGesture()}
            />
          );
        })}
      </div>
      {rule.settings.length <= 2 && <p className="text-sm leading-snug text-mist">{rule.help}</p>}
    </section>
  );
}
