import { hasCaptions } from "@bumbrel/core/analyse/needed";
import { flashWarning } from "@bumbrel/core/check/flash";
import { LOOKS, type LookWay, TRY_OUT_NAMES, TRY_OUTS, type TryOut } from "@bumbrel/core/document/scene";
import type { Take } from "@bumbrel/core/document/take/take";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import type { CameraPicture } from "@bumbrel/player/camera/madeUpCamera";
import type { MadeUpHeadset } from "@bumbrel/player/headset/madeUpHeadset";
import type { Stage } from "@bumbrel/player/stage/stage";
import { storeComfort, storedComfort } from "@bumbrel/player/visit/comfort";
import { HeadsetVisit } from "@bumbrel/player/visit/headsetVisit";
import { PhoneVisit } from "@bumbrel/player/visit/phoneVisit";
import { type UnseenPart, UnseenParts } from "@bumbrel/player/visit/unseenParts";
import { KEY_HELP, VisitWords } from "@bumbrel/player/visit/visitWords";
import { WindowVisit } from "@bumbrel/player/visit/windowVisit";
import { Captions, Expand, Pause, Play, RectangleGoggles, Smartphone, Square, TvMinimal } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { StageCanvas } from "../../liveStage/StageCanvas";
import { stageThumbnail } from "../../liveStage/thumbnails";
import { useEditing, usePlayer, useProjectId, useScene } from "../../session/context";
import { keepThumbnail } from "../../session/thumbnail";
import { Button, IconButton } from "../../ui/Button";
import { Toggle } from "../../ui/fields/Toggle";
import { formatTime } from "../../ui/format";
import { useFrame } from "../../ui/live/frames";
import { LiveText } from "../../ui/live/LiveText";
import { FiredList } from "./FiredList";
import { HeadsetPanel, type HeadsetState } from "./HeadsetPanel";
import { MeetingPanel } from "./MeetingPanel";
import { PhonePanel } from "./PhonePanel";
import { knownOutline, openCamera, PHONE_SIZES, type PhoneState } from "./phone";
import { TakeList } from "./TakeList";
import { UnseenPanel } from "./UnseenPanel";

const ICONS = { window: TvMinimal, phone: Smartphone, headset: RectangleGoggles };

declare global {
  interface Window {
    /** The made-up headset, while there is one. */
    madeUpHeadset?: MadeUpHeadset;
    /** Mask of the made-up person in the phone's image, pixel by pixel, while they are seen. */
    madeUpMask?: (width: number, height: number) => boolean[];
  }
}

/** How a try stands. */
type Running = "idle" | "running" | "paused" | "replay";

/** The stage as its audience meets it: by a window, a phone or a headset, with what they do kept as a take. */
export function TryView() {
  const editing = useEditing();
  const player = usePlayer();
  const projectId = useProjectId();
  const [stage, setStage] = useState<Stage>();
  const [tryOut, setTryOut] = useState<TryOut>("window");
  const [running, setRunning] = useState<Running>("idle");
  const [way, setWay] = useState<LookWay>(() => editing.scene.meeting.look);
  const [phone, setPhone] = useState<PhoneState>({ size: "common", isUpright: true, camera: "madeUp" });
  const [headset, setHeadset] = useState<HeadsetState>(() => ({
    mode: "immersive-vr",
    device: "madeUp",
    input: "controllers",
    showsBothEyes: false,
    comfort: storedComfort(),
  }));
  const [unseen, setUnseen] = useState<ReadonlySet<UnseenPart>>(new Set());
  const unseenParts = useRef<UnseenParts>(undefined);
  const [showsCaptions, setCaptions] = useState(false);
  const words = useRef<VisitWords>(undefined);
  const [camera, setCamera] = useState<CameraPicture>();
  const [problem, setProblem] = useState<string>();
  const [last, setLast] = useState<Take>();
  const inWindow = useRef<WindowVisit>(undefined);
  const byPhone = useRef<PhoneVisit>(undefined);
  const inHeadset = useRef<HeadsetVisit>(undefined);
  const madeUp = useRef<MadeUpHeadset>(undefined);
  const place = useRef<HTMLDivElement>(null);
  /** True if the Shelf has its picture of the replay at hand; only the chosen take gives one. */
  const pictured = useRef(true);
  const hasAnswers = useScene((scene) => scene.answers.length > 0);

  useEffect(() => {
    if (!place.current) return;
    const made = new VisitWords(player, place.current);
    words.current = made;
    return () => {
      made.dispose();
      words.current = undefined;
    };
  }, [player]);
  useEffect(() => {
    if (!stage) return;
    const made = new UnseenParts(player, stage);
    unseenParts.current = made;
    return () => made.dispose();
  }, [player, stage]);
  useEffect(() => {
    if (stage) unseenParts.current?.show(unseen);
  }, [stage, unseen]);
  useEffect(() => {
    if (words.current) words.current.showsCaptions = showsCaptions;
  }, [showsCaptions]);

  useEffect(() => {
    if (!stage || !place.current) return;
    if (tryOut === "window") {
      const made = new WindowVisit(player, stage, place.current, words.current);
      inWindow.current = made;
      return () => {
        made.dispose();
        inWindow.current = undefined;
      };
    }
    if (tryOut === "phone") {
      const made = new PhoneVisit(player, stage, place.current, words.current);
      byPhone.current = made;
      return () => {
        made.dispose();
        byPhone.current = undefined;
      };
    }
    const made = new HeadsetVisit(player, stage, () => endRef.current(), words.current);
    inHeadset.current = made;
    return () => {
      made.dispose();
      inHeadset.current = undefined;
      madeUp.current?.dispose();
      madeUp.current = undefined;
    };
  }, [stage, player, tryOut]);

  const { camera: cameraChoice, isUpright } = phone;
  useEffect(() => {
    if (!stage || tryOut !== "phone") return;
    let isOver = false;
    setProblem(undefined);
    openCamera(cameraChoice, isUpright, setProblem).then(
      (opened) => {
        if (isOver) opened?.dispose();
        else {
          byPhone.current?.setCamera(opened);
          window.madeUpMask = opened && ((width, height) => knownOutline(opened, width, height));
          setCamera(opened);
        }
      },
      ({ message }: Error) => {
        if (isOver) return;
        byPhone.current?.setCamera(undefined);
        setProblem(message);
      },
    );
    return () => {
      isOver = true;
      byPhone.current?.setCamera(undefined);
      setCamera(undefined);
    };
  }, [stage, tryOut, cameraChoice, isUpright]);

  const end = useCallback(() => {
    if (!player.run) return;
    if (!player.isReplaying && player.currentTake.lengthS > 0.2) setLast(player.currentTake);
    player.endRun();
    inWindow.current?.look("camera");
    byPhone.current?.level();
    void inHeadset.current?.leave();
    setRunning("idle");
  }, [player]);
  const endRef = useRef(end);
  endRef.current = end;
  useEffect(() => () => player.endRun(), [player]);

  /** Puts the headset on; what stands in for one is made only now. */
  const enterHeadset = async () => {
    const { device, mode, input, showsBothEyes, comfort } = headset;
    setProblem(undefined);
    madeUp.current?.dispose();
    madeUp.current = undefined;
    if (device === "madeUp" && place.current) {
      const { MadeUpHeadset } = await import("@bumbrel/player/headset/madeUpHeadset");
      madeUp.current = new MadeUpHeadset(place.current, showsBothEyes);
      madeUp.current.input = input;
      madeUp.current.leading = comfort.hand;
      window.madeUpHeadset = madeUp.current;
    }
    await inHeadset.current?.enter(mode);
  };

  const choose = (next: TryOut) => {
    end();
    setTryOut(next);
  };
  const begin = async () => {
    end();
    await player.transport.whenReady();
    if (tryOut === "headset") {
      try {
        await enterHeadset();
      } catch (error) {
        setProblem((error as Error).message);
        return;
      }
    }
    const take = player.beginRun();
    take.tryOut = tryOut;
    inWindow.current?.look(way);
    if (way === "walk") inWindow.current?.arrive();
    setRunning("running");
    place.current?.focus();
  };
  const replay = async (take: Take, id?: string) => {
    end();
    pictured.current = id === undefined || id !== editing.scene.takeId;
    setTryOut(take.tryOut);
    await player.transport.whenReady();
    inWindow.current?.look("camera");
    player.beginRun(take);
    setRunning("replay");
  };
  const pause = () => {
    const { run, transport } = player;
    if (!run) return;
    if (run.isPaused) {
      run.resume();
      transport.resumeAll();
      setRunning(player.isReplaying ? "replay" : "running");
    } else {
      run.pause();
      transport.holdAll();
      setRunning("paused");
    }
  };
  const chooseWay = (next: LookWay) => {
    setWay(next);
    if (running === "running") inWindow.current?.look(next);
  };
  useFrame(() => {
    madeUp.current?.update(performance.now());
    // A replay is over when the take is.
    if (running !== "replay" || !player.run) return;
    const lengthS = player.currentTake.lengthSteps / STEPS_A_SECOND;
    const atS = player.run.positionS();
    if (!pictured.current && stage && atS > lengthS / 2) {
      pictured.current = true;
      void stageThumbnail(stage).then((image) => image && keepThumbnail(projectId, image));
    }
    if (atS > lengthS + 0.5) end();
  });
  const isOn = running !== "idle";
  const warning = useScene(flashWarning);
  const captioned = useScene(hasCaptions);
  const { width, height } = PHONE_SIZES[phone.size];
  const aspect = tryOut === "phone" ? (isUpright ? width / height : height / width) : 0;
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_360px]">
      <div className="relative grid min-h-0 place-items-center bg-sunk">
        <div
          ref={place}
          data-visit={isOn}
          // biome-ignore lint/a11y/noNoninteractiveTabindex: the scene takes the keys that its visitors press
          tabIndex={0}
          role="application"
          aria-label="The scene, as its visitors meet it"
          className={`touch-none outline-none focus-visible:outline-2 focus-visible:outline-brass ${
            aspect > 0
              ? "relative max-h-[calc(100%-2rem)] max-w-[calc(100%-2rem)] overflow-hidden rounded-3xl border-4 border-rule"
              : "absolute inset-0 focus-visible:-outline-offset-2"
          }`}
          style={
            aspect > 0
              ? { aspectRatio: aspect, [aspect < 1 ? "height" : "width"]: "calc(100% - 2rem)" }
              : undefined
          }
        >
          <StageCanvas onStage={setStage} />
        </div>
        {!isOn && (
          <div className="pointer-events-none absolute inset-0 grid place-content-center justify-items-center gap-3">
            <Button
              look="main"
              className="pointer-events-auto px-6 py-2 text-lg"
              onClick={() => void begin()}
            >
              <Play size={18} aria-hidden /> Start the try
            </Button>
            {warning !== undefined && (
              <p role="alert" className="max-w-md rounded bg-ground/85 px-3 py-1.5 text-center text-alarm">
                {warning} Deliver can limit it.
              </p>
            )}
            <p className="max-w-md rounded bg-ground/85 px-3 py-1.5 text-center text-sm text-mist">
              The scene begins as its visitors meet it: from its start, with what they do recorded.
            </p>
          </div>
        )}
        {isOn && (
          <div className="absolute bottom-3 left-3 flex items-center gap-1 rounded-full border border-rule bg-ground/85 px-2 py-0.5">
            <IconButton label={running === "paused" ? "Go on" : "Pause the try"} onClick={pause}>
              {running === "paused" ? <Play size={16} /> : <Pause size={16} />}
            </IconButton>
            <IconButton label="End the try" onClick={end}>
              <Square size={15} />
            </IconButton>
            <LiveText
              className="figures min-w-16 text-right text-sm"
              text={() => formatTime(player.run?.positionS() ?? 0)}
            />
            <span className="px-1 text-sm text-mist">{running === "replay" ? "replay" : "recorded"}</span>
            {captioned && (
              <IconButton
                label="Captions"
                aria-pressed={showsCaptions}
                className={showsCaptions ? "text-brass" : undefined}
                onClick={() => setCaptions(!showsCaptions)}
              >
                <Captions size={16} />
              </IconButton>
            )}
            <IconButton label="Fill the screen" onClick={() => void place.current?.requestFullscreen()}>
              <Expand size={15} />
            </IconButton>
          </div>
        )}
        {running === "running" && hintFor(tryOut, way) && (
          <p className="pointer-events-none absolute right-3 bottom-4 rounded bg-ground/75 px-2 text-xs text-mist">
            {hintFor(tryOut, way)}
          </p>
        )}
      </div>
      <aside
        aria-label="Try"
        className="grid min-h-0 grid-cols-[minmax(0,1fr)] content-start gap-4 overflow-y-auto border-l border-rule px-4 py-3"
      >
        <section className="grid gap-2">
          <h2 className="font-semibold">Met by</h2>
          <div className="flex gap-1.5">
            {TRY_OUT_NAMES.map((one) => {
              const Icon = ICONS[one];
              return (
                <Toggle key={one} label={TRY_OUTS[one]} on={one === tryOut} onChange={() => choose(one)}>
                  <Icon size={15} aria-hidden /> {TRY_OUTS[one]}
                </Toggle>
              );
            })}
          </div>
          {tryOut === "window" && (
            <div className="flex flex-wrap items-center gap-1.5 text-sm text-mist">
              Seen
              {(Object.keys(LOOKS) as LookWay[]).map((one) => (
                <Toggle key={one} label={LOOKS[one]} on={one === way} onChange={() => chooseWay(one)}>
                  {LOOKS[one]}
                </Toggle>
              ))}
            </div>
          )}
          {tryOut === "phone" && (
            <PhonePanel
              {...{ phone, camera, problem }}
              onChange={(change) => setPhone({ ...phone, ...change })}
              onLevel={() => byPhone.current?.level()}
              onMotion={() =>
                void PhoneVisit.askForMotion().then((refused) => {
                  setProblem(refused);
                  if (!refused) byPhone.current?.followMotion(setProblem);
                })
              }
            />
          )}
          {tryOut === "headset" && (
            <HeadsetPanel
              {...{ headset, problem }}
              onChange={(change) => {
                const next = { ...headset, ...change };
                setHeadset(next);
                if (change.comfort) storeComfort(change.comfort);
                if (inHeadset.current) inHeadset.current.comfort = next.comfort;
                if (!madeUp.current) return;
                madeUp.current.leading = next.comfort.hand;
                madeUp.current.showsBothEyes = next.showsBothEyes;
                madeUp.current.input = next.input;
              }}
            />
          )}
        </section>
        <UnseenPanel shown={unseen} onChange={setUnseen} />
        <TakeList last={last} onForget={() => setLast(undefined)} onReplay={(take) => void replay(take)} />
        <MeetingPanel />
        {hasAnswers ? (
          <FiredList />
        ) : (
          <p className="text-sm text-mist">
            The scene answers nobody yet. In the Stage view, under Answers, say what a tap, a step into a zone
            or a hit does.
          </p>
        )}
      </aside>
    </main>
  );
}

function hintFor(tryOut: TryOut, way: LookWay): string | undefined {
  if (tryOut === "headset") return undefined;
  return KEY_HELP[tryOut === "phone" ? "phone" : way];
}
