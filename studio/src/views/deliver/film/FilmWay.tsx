import { WAYS_OUT } from "@bumbrel/api/waysOut";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { FILM_SETTINGS, type FilmSettings, sizeOf } from "@bumbrel/core/document/film/film";
import { type FilmOrder, orderOf, piecesOf } from "@bumbrel/core/document/film/filmPieces";
import { defaultsOf, type SettingValue } from "@bumbrel/core/setting/descriptor";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Camera, CircleDot, Clapperboard, Pause, Play, Save, Server, Square, Trash2, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { api } from "../../../api/client";
import { canKeepFilms } from "../../../library/filmStore";
import { usePlayer, useProjectId, useScene, useSession, useTransport } from "../../../session/context";
import { takesOf } from "../../../session/edits/takes";
import { Button } from "../../../ui/Button";
import { formatBytes, formatLength, formatTime } from "../../../ui/format";
import { ShareBar } from "../../../ui/ShareBar";
import { saveFile } from "../../../ui/saveFile";
import { WaySetting } from "../WaySettings";
import { FilmJobList, filmsKey } from "./FilmJobList";
import {
  cancelFilm,
  findBegunFilms,
  forgetFilm,
  goOnWithFilm,
  type Making,
  makeFilm,
  makeStill,
  pauseFilm,
  recordFilm,
  removeBegunFilm,
  useFilms,
} from "./filmMaking";

/** How films are to be made, as chosen last in this browser. */
const useSettings = create(
  persist<{ settings: FilmSettings }>(() => ({ settings: defaultsOf(FILM_SETTINGS) }), {
    name: "bumbrel-film",
    merge: (kept, now) => ({
      settings: { ...now.settings, ...(kept as { settings?: FilmSettings })?.settings },
    }),
  }),
);
const setSetting = (key: string, value: SettingValue) =>
  useSettings.setState(({ settings }) => ({ settings: { ...settings, [key]: value } as FilmSettings }));

const KEYS = Object.keys(FILM_SETTINGS) as (keyof FilmSettings)[];

/** Films of the scene: how they are to be, the one that is being made, and those that were begun. */
export function FilmWay() {
  const session = useSession();
  const { making, begun } = useFilms();
  useEffect(() => {
    if (canKeepFilms()) void findBegunFilms(session);
  }, [session]);
  if (!canKeepFilms()) {
    return (
      <p className="text-mist">
        This browser keeps no files for pages that come unencrypted from another machine. Open Bumbrel on this
        machine or by https, or use the command line: <code>npx bumbrel render</code>.
      </p>
    );
  }
  return (
    <div className="grid gap-3">
      {making ? <FilmInMaking making={making} /> : <FilmForm />}
      {!making &&
        begun.map(({ film, made, of, isOfThisScene }) => (
          <div key={film.id} className="flex flex-wrap items-center gap-3 text-sm">
            <span className="grow">
              A film of {formatTime(piecesOf(film.note.order).plan.lengthS)} was begun: {made} of {of} pieces
              are done.
              {!isOfThisScene && " The scene has changed since, so it cannot go on."}
            </span>
            {isOfThisScene && (
              <Button onClick={() => void makeFilm(session, film.note.order, film)}>
                <Play size={14} aria-hidden /> Go on with it
              </Button>
            )}
            <Button onClick={() => void removeBegunFilm(session, film)}>
              <Trash2 size={14} aria-hidden /> Remove it
            </Button>
          </div>
        ))}
      <FilmJobList />
    </div>
  );
}

function FilmForm() {
  const session = useSession();
  const player = usePlayer();
  const projectId = useProjectId();
  const { settings } = useSettings();
  const scene = useScene(({ name, marks, stretch, takeId, assets, sounds }) => ({
    name,
    marks,
    stretch,
    takeId,
    assets,
    sounds,
  }));
  const { durationS } = useTransport();
  const [stillFailure, setStillFailure] = useState<string>();
  const take = takesOf(scene).find(({ id }) => id === scene.takeId);
  const lengthS = take ? take.lengthS : durationS;
  const order = orderOf({ settings, title: scene.name }, scene, lengthS);
  const queries = useQueryClient();
  const ordering = useMutation({
    mutationFn: async () => {
      if (typeof order === "string") throw new Error(order);
      // Workers have what the server has: everything must be saved first.
      await session.document.flush();
      await api.orderFilm(projectId, { settings, stretch: order.stretch });
    },
    onSettled: () => queries.invalidateQueries({ queryKey: filmsKey(projectId) }),
  });
  const live = scene.sounds.filter(({ kind }) => kind === "input");
  const still = async () => {
    setStillFailure(undefined);
    const fromS = player.transport.positionS();
    try {
      const stretch = { fromS, toS: fromS + 1 };
      saveFile(
        await makeStill(session, { settings: { ...settings, subFrames: 1 }, stretch, title: scene.name }),
      );
    } catch (error) {
      setStillFailure((error as Error).message);
    }
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        {KEYS.map((key) => (
          <FilmSetting key={key} settingKey={key} settings={settings} />
        ))}
      </div>
      <p className="text-sm text-mist">
        {take && `It shows the take “${take.name}”. `}
        {typeof order === "string" ? order : lengthsOf(order)}
        {live.length > 0 &&
          ` ${live[0].name} is heard live, and nothing of it is known by number: record what happens instead. That follows the clock: a frame that is drawn late is late in the film.`}
      </p>
      {(stillFailure ?? ordering.error) && (
        <p role="alert" className="text-sm text-alarm">
          {stillFailure ?? ordering.error?.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button
          look="main"
          disabled={typeof order === "string"}
          onClick={() => typeof order !== "string" && void makeFilm(session, order)}
        >
          <Clapperboard size={16} aria-hidden /> {WAYS_OUT.film.action}
        </Button>
        {live.length > 0 && (
          <Button
            onClick={() =>
              void recordFilm(session, { settings, stretch: { fromS: 0, toS: 1 }, title: scene.name })
            }
          >
            <CircleDot size={16} aria-hidden /> Record what happens
          </Button>
        )}
        <Button disabled={typeof order === "string" || ordering.isPending} onClick={() => ordering.mutate()}>
          <Server size={16} aria-hidden /> Let workers make it
        </Button>
        <Button onClick={() => void still()}>
          <Camera size={16} aria-hidden /> Save a still of this instant
        </Button>
      </div>
    </>
  );
}

/** Frames and samples of a film that is ordered. */
function lengthsOf(order: FilmOrder): string {
  const { plan } = piecesOf(order);
  const { width, height } = sizeOf(order.settings);
  return `${width} × ${height} pixels, ${plan.frames} frames, ${formatTime(plan.lengthS)}; ${plan.samples} samples of sound, as long to the sample.`;
}

function FilmSetting({ settingKey, settings }: { settingKey: keyof FilmSettings; settings: FilmSettings }) {
  const setting = FILM_SETTINGS[settingKey];
  const marks = useScene((scene) => scene.marks);
  const { when } = setting;
  if (when && !when.is.includes(settings[when.setting as keyof FilmSettings] as never)) return null;
  const isSections = settings.stretch === "section";
  return (
    <WaySetting
      setting={setting}
      value={settings[settingKey]}
      offered={marks.filter(({ beginsSection }) => beginsSection || !isSections)}
      onChange={(next) => setSetting(settingKey, next)}
    />
  );
}

const STATES: Record<Making["state"], string> = {
  making: "Making the film",
  paused: "Paused",
  recording: "Recording what happens, by the clock",
  joining: "Putting picture and sound together",
  whole: "The film is whole",
  failed: "The film could not be made",
};

function FilmInMaking({ making }: { making: Making }) {
  const session = useSession();
  const { state, progress, leftS, saved, failure, order, recorded } = making;
  const { frames, ofFrames, sound } = progress;
  const { plan } = piecesOf(order);
  const share = 0.05 * sound + 0.95 * (frames / Math.max(1, ofFrames));
  const isRecording = state === "recording";
  const isGoing = state === "making" || state === "paused" || isRecording;
  return (
    <div className="flex flex-wrap gap-4">
      {isGoing && <Preview making={making} />}
      <div className="grid min-w-64 grow content-start gap-2">
        <p role="status" className={state === "failed" ? "text-alarm" : ""}>
          {STATES[state]}
          {state === "failed" && `: ${failure}`}
        </p>
        {isRecording && (
          <p className="figures text-sm text-mist">
            {formatTime(recorded?.seconds ?? 0)}, {recorded?.frames ?? 0} frames as they were drawn
          </p>
        )}
        {((isGoing && !isRecording) || state === "joining") && (
          <>
            <ShareBar label="Share of the film that is done" share={share} />
            <p className="figures text-sm text-mist">
              {sound < 1
                ? `Mixing the sound, ${Math.round(sound * 100)} %`
                : `${frames} of ${ofFrames} frames`}
              {leftS !== undefined && `, ${formatLength(leftS)} left`}
            </p>
          </>
        )}
        {saved?.lengths && (
          <p className="figures text-sm text-mist">
            Picture: {saved.lengths.frames} frames, {(saved.lengths.frames / plan.framesPerSecond).toFixed(5)}{" "}
            s. Sound: {saved.lengths.samples} samples, {(saved.lengths.samples / SAMPLE_RATE_HZ).toFixed(5)}{" "}
            s.{" "}
            {Math.abs(
              saved.lengths.samples - (saved.lengths.frames * SAMPLE_RATE_HZ) / plan.framesPerSecond,
            ) <= 0.5
              ? "They are equally long."
              : "They differ."}{" "}
            {formatBytes(saved.bytes)}.
          </p>
        )}
        <div className="flex gap-2">
          {isRecording && (
            <Button look="main" onClick={goOnWithFilm}>
              <Square size={14} aria-hidden /> Stop and keep it
            </Button>
          )}
          {state === "making" && (
            <Button onClick={pauseFilm}>
              <Pause size={14} aria-hidden /> Pause the film
            </Button>
          )}
          {state === "paused" && (
            <Button onClick={goOnWithFilm}>
              <Play size={14} aria-hidden /> Go on with the film
            </Button>
          )}
          {isGoing && (
            <Button onClick={cancelFilm}>
              <X size={14} aria-hidden /> Cancel the film
            </Button>
          )}
          {saved && (
            <a
              className="inline-flex items-center gap-1.5 rounded-full bg-brass px-3 py-1 font-semibold text-on-brass hover:brightness-110"
              href={saved.url}
              download={saved.name}
            >
              <Save size={16} aria-hidden /> Save {saved.name}
            </a>
          )}
          {(state === "whole" || state === "failed") && (
            <Button onClick={() => void forgetFilm(session)}>Another film</Button>
          )}
        </div>
      </div>
    </div>
  );
}

/** The frame that was made last, small. */
function Preview({ making: { canvas } }: { making: Making }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!canvas) return;
    canvas.className = "max-h-44 max-w-72 rounded";
    canvas.setAttribute("role", "img");
    canvas.setAttribute("aria-label", "The frame that was made last");
    place.current!.append(canvas);
    return () => canvas.remove();
  }, [canvas]);
  return (
    <div ref={place} className="grid h-44 w-72 place-content-center rounded bg-sunk">
      {!canvas && <span className="text-sm text-mist">Getting ready …</span>}
    </div>
  );
}
