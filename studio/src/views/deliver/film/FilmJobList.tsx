import type { FilmJob } from "@bumbrel/api/contracts";
import { FILM_FORMATS, sizeOf } from "@bumbrel/core/document/film/film";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Save, Trash2, X } from "lucide-react";
import { api, filmUrl } from "../../../api/client";
import { useProjectId } from "../../../session/context";
import { Button } from "../../../ui/Button";
import { formatTime } from "../../../ui/format";
import { ShareBar } from "../../../ui/ShareBar";

/** How often films are looked at while workers make one, ms. */
const LOOK_MS = 1000;

export const filmsKey = (projectId: string) => ["films", projectId];

/** Films that workers make, and have made. */
export function FilmJobList() {
  const projectId = useProjectId();
  const { data: films = [], error } = useQuery({
    queryKey: filmsKey(projectId),
    queryFn: () => api.films(projectId),
    refetchInterval: ({ state }) => (state.data?.some((film) => film.state === "making") ? LOOK_MS : false),
  });
  if (error) return <p className="text-sm text-alarm">{error.message}</p>;
  if (films.length === 0) return null;
  return (
    <ul aria-label="Films that workers make" className="grid gap-2">
      {films.map((film) => (
        <Row key={film.id} film={film} />
      ))}
    </ul>
  );
}

function Row({ film }: { film: FilmJob }) {
  const projectId = useProjectId();
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: filmsKey(projectId) });
  const cancel = useMutation({ mutationFn: () => api.cancelFilm(film.id), onSettled });
  const remove = useMutation({ mutationFn: () => api.removeFilm(film.id), onSettled });
  const { settings, state, pieces, ofPieces } = film;
  const { width, height } = sizeOf(settings);
  return (
    <li className="grid gap-1 text-sm">
      <div className="flex flex-wrap items-center gap-3">
        <span className="grow">
          {FILM_FORMATS[settings.format].label}, {width} × {height}, {formatTime(film.lengthS)}
          <span className={state === "failed" ? "text-alarm" : "text-mist"}> · {stateOf(film)}</span>
        </span>
        {state === "whole" && (
          <a
            className="inline-flex items-center gap-1.5 rounded-full border border-rule px-3 py-1 hover:border-brass"
            href={filmUrl(film.id)}
            download=""
          >
            <Save size={14} aria-hidden /> Save this film
          </a>
        )}
        {state === "making" ? (
          <Button onClick={() => cancel.mutate()}>
            <X size={14} aria-hidden /> Cancel this film
          </Button>
        ) : (
          <Button onClick={() => remove.mutate()}>
            <Trash2 size={14} aria-hidden /> Remove this film
          </Button>
        )}
      </div>
      {state === "making" && <ShareBar label="Share of this film that is done" share={pieces / ofPieces} />}
    </li>
  );
}

function stateOf({ state, pieces, ofPieces, workers, failure }: FilmJob): string {
  switch (state) {
    case "making":
      if (workers.length === 0) return `${pieces} of ${ofPieces} pieces, waits for a worker`;
      return `${pieces} of ${ofPieces} pieces, ${workers.length} ${workers.length === 1 ? "worker" : "workers"}`;
    case "whole":
      return "whole";
    case "failed":
      return failure ?? "failed";
    case "cancelled":
      return "cancelled";
  }
}
