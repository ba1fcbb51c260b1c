import { CUE_RULE_NAMES, CUE_RULES, CUE_SETTINGS, type CueSettingName } from "@bumbrel/core/strand/cues";
import { Volume2 } from "lucide-react";
import { useAudition, useEditing, useResult } from "../../../session/context";
import { editStrand } from "../../../session/edits/strands";
import { type StrandFace, useStrand } from "../../../session/strandHooks";
import { Choice } from "../../../ui/fields/Choice";
import { SliderField } from "../../../ui/fields/SliderField";
import { Toggle } from "../../../ui/fields/Toggle";
import { SwitchDot } from "./SwitchDot";

/** How a strand's number becomes cues. */
export function CueGroup({ strand }: { strand: StrandFace }) {
  const audition = useAudition();
  const change = useCueChange(strand);
  const { on, rule: ruleName } = useStrand(strand.id, ({ cues: { on, rule } }) => ({ on, rule }));
  const rule = CUE_RULES[ruleName];
  const count = useResult(({ analysis }) => analysis.traces.get(strand.id)?.cues.length ?? 0);
  const isHeard = useResult(({ audition: { clicking } }) => clicking.has(strand.id));
  return (
    <section aria-label="Cues" className="grid min-w-0 content-start gap-1">
      <div className="flex h-6 items-center gap-2">
        <span title={rule.help}>Cues</span>
        <Choice
          label="Cue rule"
          className="w-36"
          value={ruleName}
          choices={CUE_RULE_NAMES.map((name) => [name, CUE_RULES[name].label] as const)}
          onChange={(next) => change({ rule: next, on: true })}
        />
        <Toggle
          label={isHeard ? "Stop the clicks" : "Hear each cue as a click"}
          on={isHeard}
          onChange={(isOn) => audition.setClicking(strand.id, isOn)}
        >
          <Volume2 size={13} aria-hidden />
        </Toggle>
        <span className="text-sm whitespace-nowrap text-mist">
          <span className="figures text-paper">{on ? count : 0}</span> cues
        </span>
        <SwitchDot label="Cues on" on={on} onChange={(isOn) => change({ on: isOn })} />
      </div>
      <div className="grid grid-cols-2 gap-x-4">
        {rule.settings.map((setting) => (
          <CueSlider key={setting} strand={strand} setting={setting} />
        ))}
      </div>
      {rule.settings.length <= 2 && <p className="text-sm leading-snug text-mist">{rule.help}</p>}
    </section>
  );
}

function useCueChange({ id, name }: StrandFace) {
  const editing = useEditing();
  return (change: object, gesture?: string) =>
    editStrand(
      editing,
      id,
      `change the cues of ${name}`,
      (draft) => Object.assign(draft.cues, change),
      gesture,
    );
}

function CueSlider({ strand, setting }: { strand: StrandFace; setting: CueSettingName }) {
  const editing = useEditing();
  const change = useCueChange(strand);
  const { value, on } = useStrand(strand.id, ({ cues }) => ({ value: cues[setting], on: cues.on }));
  const { label, unit, min, max, step, default: resetTo } = CUE_SETTINGS[setting];
  return (
    <SliderField
      {...{ label, unit, min, max, step, resetTo, value }}
      chars={4}
      curve={setting === "gapMs" ? "square" : "linear"}
      disabled={!on}
      onChange={(next) => change({ [setting]: next }, `${strand.id} cues ${setting}`)}
      onDone={() => editing.endGesture()}
    />
  );
}
