import { TAKE_USES, type TakeUse, TRY_OUTS } from "@bumbrel/core/document/scene";
import type { Take } from "@bumbrel/core/document/take/take";
import { Film, GitCompareArrows, Play, Scissors, Trash2 } from "lucide-react";
import { useState } from "react";
import { useEditing, useScene } from "../../session/context";
import {
  chooseTake,
  fetchTake,
  keepTake,
  removeTake,
  renameTake,
  type TakeAsset,
  takesOf,
  trimTake,
} from "../../session/edits/takes";
import { Button, IconButton } from "../../ui/Button";
import { Choice } from "../../ui/fields/Choice";
import { NameField } from "../../ui/fields/NameField";
import { NumberField } from "../../ui/fields/NumberField";
import { CompareTakes } from "./CompareTakes";

/** Takes: the last try, and those that the project keeps. */
export function TakeList({
  last,
  onForget,
  onReplay,
}: {
  /** The last try, as long as it is not kept. */
  last: Take | undefined;
  onForget(): void;
  /** @param id  of a take that is kept */
  onReplay(take: Take, id?: string): void;
}) {
  const editing = useEditing();
  const takes = useScene(takesOf);
  const { takeId, takeUse } = useScene((scene) => ({ takeId: scene.takeId, takeUse: scene.takeUse }));
  const [failure, setFailure] = useState<string>();
  /** Ids of the takes that are compared, the first that was chosen first; two at most. */
  const [compared, setCompared] = useState<readonly string[]>([]);
  const pair = compared.flatMap((id) => takes.find((take) => take.id === id) ?? []);
  const toggleCompared = (id: string) =>
    setCompared((before) =>
      before.includes(id) ? before.filter((one) => one !== id) : [...before, id].slice(-2),
    );
  const attempt = (what: Promise<unknown>) =>
    void what.then(
      () => setFailure(undefined),
      ({ message }: Error) => setFailure(message),
    );
  return (
    <section aria-label="Takes" className="grid grid-cols-[minmax(0,1fr)] gap-1">
      <h2 className="font-semibold">Takes</h2>
      {last && (
        <div className="flex flex-wrap items-center gap-1.5 rounded border border-brass/60 p-2 text-sm">
          <span className="grow">
            The last try, <span className="figures">{last.lengthS.toFixed(1)} s</span>
          </span>
          <Button className="text-sm" onClick={() => onReplay(last)}>
            <Play size={13} aria-hidden /> Again
          </Button>
          <Button
            look="main"
            className="text-sm"
            onClick={() => attempt(keepTake(editing, last).then(onForget))}
          >
            Keep it
          </Button>
        </div>
      )}
      {takes.length === 0 && !last && (
        <p className="text-sm text-mist">
          Everything you do during a try is recorded, and can be played again exactly.
        </p>
      )}
      <ul className="grid grid-cols-[minmax(0,1fr)]">
        {takes.map((take) => (
          <TakeRow
            key={take.storedId}
            take={take}
            isChosen={take.id === takeId}
            onReplay={() => attempt(fetchTake(take).then((fetched) => onReplay(fetched, take.id)))}
            isCompared={takes.length < 2 ? undefined : compared.includes(take.id)}
            onCompare={() => toggleCompared(take.id)}
            attempt={attempt}
          />
        ))}
      </ul>
      {pair.length === 1 && takes.length > 1 && (
        <p className="text-sm text-mist">Choose the take that {pair[0].name} is compared with.</p>
      )}
      {pair.length === 2 && <CompareTakes first={pair[0]} second={pair[1]} />}
      {takeId !== null && (
        <p className="flex items-center gap-2 text-sm text-mist">
          Delivered pages
          <Choice
            label="What delivered pages do with the chosen take"
            value={takeUse}
            choices={(Object.keys(TAKE_USES) as TakeUse[]).map((use) => [use, TAKE_USES[use]] as const)}
            onChange={(use) =>
              editing.edit("use of the take", (scene) => {
                scene.takeUse = use;
              })
            }
          />
        </p>
      )}
      {failure && (
        <p role="alert" className="text-sm text-alarm">
          {failure}
        </p>
      )}
    </section>
  );
}

function TakeRow({
  take,
  isChosen,
  onReplay,
  isCompared,
  onCompare,
  attempt,
}: {
  take: TakeAsset;
  isChosen: boolean;
  /** Without it there is nothing to compare it with. */
  isCompared: boolean | undefined;
  onCompare(): void;
  onReplay(): void;
  attempt(what: Promise<unknown>): void;
}) {
  const editing = useEditing();
  const [isTrimming, setTrimming] = useState(false);
  const [[fromS, toS], setEnds] = useState([0, take.lengthS]);
  const field = { unit: "s", min: 0, max: take.lengthS, step: 0.1, chars: 6 };
  return (
    <li className="grid grid-cols-[minmax(0,1fr)] gap-1 border-t border-rule py-1.5 text-sm">
      <div className="flex items-center gap-1">
        <IconButton small label={`Play ${take.name} again`} onClick={onReplay}>
          <Play size={14} />
        </IconButton>
        <NameField
          label="Take name"
          className="min-w-0 grow"
          value={take.name}
          onRename={(name) => renameTake(editing, take, name)}
        />
        <span className="figures whitespace-nowrap text-mist">{take.lengthS.toFixed(1)} s</span>
        <span className="text-xs text-mist">{TRY_OUTS[take.tryOut].toLowerCase()}</span>
        <IconButton
          small
          label={
            isChosen ? `Films and thumbnails show ${take.name}` : `Show ${take.name} in films and thumbnails`
          }
          aria-pressed={isChosen}
          className={isChosen ? "text-brass" : "text-mist"}
          onClick={() => {
            chooseTake(editing, isChosen ? null : take.id);
            // The picture for the Shelf is taken on the way.
            if (!isChosen) onReplay();
          }}
        >
          <Film size={14} />
        </IconButton>
        {isCompared !== undefined && (
          <IconButton
            small
            label={`Compare ${take.name}`}
            aria-pressed={isCompared}
            className={isCompared ? "text-brass" : "text-mist"}
            onClick={onCompare}
          >
            <GitCompareArrows size={14} />
          </IconButton>
        )}
        <IconButton
          small
          label={`Trim ${take.name}`}
          aria-pressed={isTrimming}
          onClick={() => setTrimming(!isTrimming)}
        >
          <Scissors size={14} />
        </IconButton>
        <IconButton small label={`Remove ${take.name}`} onClick={() => removeTake(editing, take)}>
          <Trash2 size={14} />
        </IconButton>
      </div>
      {isTrimming && (
        <div className="flex flex-wrap items-center gap-1.5 pl-7 text-mist">
          from
          <NumberField {...field} label="Trim from" value={fromS} onChange={(next) => setEnds([next, toS])} />
          to
          <NumberField {...field} label="Trim to" value={toS} onChange={(next) => setEnds([fromS, next])} />
          <Button
            className="text-sm"
            disabled={toS <= fromS}
            onClick={() => {
              setTrimming(false);
              attempt(trimTake(editing, take, fromS, toS));
            }}
          >
            Trim
          </Button>
        </div>
      )}
    </li>
  );
}
