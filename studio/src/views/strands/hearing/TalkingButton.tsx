import { changeShaping } from "@bumbrel/core/strand/shape/shaping";
import { talkingIn } from "@bumbrel/core/strand/shape/talking";
import { Mic } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useEditing, useNumbers, useScene } from "../../../session/context";
import { editStrand } from "../../../session/edits/strands";
import type { StrandFace } from "../../../session/strandHooks";
import { Button } from "../../../ui/Button";
import { formatDb } from "../../../ui/format";

/** How long the room is listened to, s. */
const ROOM_S = 3;

/** Shapes a strand of a microphone for a talking voice, above the noise of the room as it is now. */
export function TalkingButton({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  const editing = useEditing();
  const { listensTo } = strand;
  const isInput = useScene((scene) =>
    scene.sounds.some(
      ({ id, kind }) => listensTo.kind === "sound" && id === listensTo.id && kind === "input",
    ),
  );
  const [leftS, setLeft] = useState<number>();
  const [said, setSaid] = useState<string>();
  const timer = useRef<ReturnType<typeof setInterval>>(undefined);
  useEffect(() => () => clearInterval(timer.current), []);
  if (!isInput) return null;
  const finish = () => {
    clearInterval(timer.current);
    setLeft(undefined);
    const heard = numbers.recent(strand.id, ROOM_S);
    if (!heard || heard.framesHeard < ROOM_S * 50) {
      setSaid("Nothing has been heard: switch the input on in the Sounds view.");
      return;
    }
    const width = heard.shaped.width;
    const raw = heard.raw.filter((_level, i) => i % width === 0).slice(-heard.framesHeard);
    const { noiseDb, shaping } = talkingIn(raw);
    editStrand(editing, strand.id, `shape ${strand.name} for talking`, (draft) => {
      changeShaping(draft.shaping, shaping);
    });
    setSaid(`The room is at ${formatDb(10 ** (noiseDb / 20))}; the mark lies above it.`);
  };
  const begin = () => {
    setSaid(undefined);
    let left = ROOM_S;
    setLeft(left);
    timer.current = setInterval(() => {
      left--;
      if (left <= 0) finish();
      else setLeft(left);
    }, 1000);
  };
  return (
    <>
      <Button
        className="px-2 py-0 text-sm leading-5"
        disabled={leftS !== undefined}
        title={
          said ??
          "Listens to the room for three seconds, and shapes the level for a talking voice above its noise"
        }
        onClick={begin}
      >
        <Mic size={13} aria-hidden /> {leftS === undefined ? "Talking" : `Be quiet … ${leftS}`}
      </Button>
      <span role="status" className="sr-only">
        {said}
      </span>
    </>
  );
}
