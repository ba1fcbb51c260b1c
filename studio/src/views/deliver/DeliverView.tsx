import {
  type MadeWay,
  WAY_GROUPS,
  WAY_OUT_NAMES,
  WAYS_OUT,
  type WayGroup,
  type WayOutName,
} from "@bumbrel/api/waysOut";
import {
  Archive,
  AudioLines,
  Blocks,
  Box,
  Braces,
  Clapperboard,
  FileDown,
  FileJson,
  FolderDown,
  Gamepad2,
  Globe,
  type LucideIcon,
  Music4,
  Radio,
  Table2,
  Tags,
} from "lucide-react";
import { useState } from "react";
import { fetchWay, wayPath } from "../../api/client";
import { useEditing, useProjectId } from "../../session/context";
import { Button } from "../../ui/Button";
import { saveFile } from "../../ui/saveFile";
import { Checks } from "./Checks";
import { FeedWay } from "./feed/FeedWay";
import { FilmWay } from "./film/FilmWay";
import { LookThrough } from "./LookThrough";
import { useWayValues, WaySettings } from "./WaySettings";
import { useWaySize } from "./waySize";

const ICONS: Record<WayOutName, LucideIcon> = {
  page: Globe,
  folder: FolderDown,
  film: Clapperboard,
  numbers: Gamepad2,
  player: Blocks,
  baked: AudioLines,
  model: Box,
  csv: Table2,
  json: Braces,
  midi: Music4,
  labels: Tags,
  feed: Radio,
  archive: Archive,
  scene: FileJson,
};

/** Checks first, then the ways out. */
export function DeliverView() {
  return (
    <main className="min-h-0 overflow-y-auto px-8 py-5">
      <div className="mx-auto grid max-w-4xl gap-8">
        <Checks />
        <LookThrough />
        {(Object.keys(WAY_GROUPS) as WayGroup[]).map((group) => (
          <section key={group} aria-label={WAY_GROUPS[group]}>
            <h2 className="pb-2 text-2xl font-semibold">{WAY_GROUPS[group]}</h2>
            {WAY_OUT_NAMES.filter((name) => WAYS_OUT[name].group === group).map((name) => (
              <Way key={name} name={name} />
            ))}
          </section>
        ))}
      </div>
    </main>
  );
}

function Way({ name }: { name: WayOutName }) {
  const { label, help, settings, maker } = WAYS_OUT[name];
  const isPlain = maker === "server" && Object.keys(settings).length === 0;
  const Icon = ICONS[name];
  return (
    <section aria-label={label} className="flex items-start gap-6 border-t border-rule py-4 last:border-b">
      <Icon size={26} aria-hidden className="mt-1 shrink-0 text-brass" />
      <div className={isPlain ? "flex grow items-start gap-6" : "grid grow gap-3"}>
        <div className="grow">
          <h3 className="text-lg font-semibold">{label}</h3>
          <p className="text-mist">{help}</p>
        </div>
        {name === "film" ? <FilmWay /> : name === "feed" ? <FeedWay /> : <MadeWayForm name={name} />}
      </div>
    </section>
  );
}

/** Settings of a way out that the server makes, how large it will be, and the button that saves it. */
function MadeWayForm({ name }: { name: MadeWay }) {
  const editing = useEditing();
  const projectId = useProjectId();
  const [isBusy, setBusy] = useState(false);
  const [failure, setFailure] = useState<string>();
  const values = useWayValues(name);
  const size = useWaySize(name, values);
  const save = async () => {
    setBusy(true);
    setFailure(undefined);
    try {
      // It is made from what the server has: everything must be saved first.
      await editing.flush();
      saveFile(await fetchWay(wayPath(projectId, name, values), name));
    } catch (error) {
      setFailure((error as Error).message);
    }
    setBusy(false);
  };
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
      <WaySettings name={name} values={values} />
      {size && <span className="figures text-sm text-mist">{size}</span>}
      <Button
        look={name === "page" ? "main" : "plain"}
        className="ml-auto"
        disabled={isBusy}
        onClick={() => void save()}
      >
        <FileDown size={16} aria-hidden /> {isBusy ? "Getting it ready …" : WAYS_OUT[name].action}
      </Button>
      {failure && (
        <p role="alert" className="w-full text-sm text-alarm">
          {failure}
        </p>
      )}
    </div>
  );
}
