import type { Settings } from "@bumbrel/core/setting/descriptor";
import { settingSchemas } from "@bumbrel/core/setting/schema";
import { type TSchema, Type } from "@sinclair/typebox";
import {
  ArchiveReport,
  Bin,
  Created,
  CreatedProject,
  FeedClock,
  FeedState,
  FeedWish,
  FilmJobs,
  Health,
  KnownSound,
  LoadedProject,
  NewAsset,
  NewFilm,
  NewProject,
  NewSound,
  ProjectList,
  SavedScene,
  SavedStates,
  SaveScene,
  StateScene,
  Storage,
} from "./contracts";

import { MADE_WAYS, WAYS_OUT } from "./waysOut";

/** Bytes of a media type, without a schema. */
export interface Bytes {
  media: string;
}

export interface Route {
  method: "get" | "put" | "post" | "delete";
  /** With parameters in braces. */
  path: string;
  summary: string;
  query?: TSchema;
  request?: TSchema | Bytes;
  /** The answers that are not problems. */
  answers: Record<number, TSchema | Bytes | undefined>;
  /** Problems it may answer with, beside 400 and 500. */
  problems?: readonly number[];
}

const BYTES: Bytes = { media: "application/octet-stream" };

/** Everything the server answers under `/api`. */
export const ROUTES: readonly Route[] = [
  { method: "get", path: "/health", summary: "Whether the server is ready", answers: { 200: Health } },
  {
    method: "get",
    path: "/openapi.json",
    summary: "This description",
    answers: { 200: { media: "application/json" } },
  },
  {
    method: "get",
    path: "/projects",
    summary: "All projects, the last changed first",
    answers: { 200: ProjectList },
  },
  {
    method: "post",
    path: "/projects",
    summary: "Makes a project: empty, from an example, as a copy, or from a scene document",
    request: NewProject,
    answers: { 201: CreatedProject },
    problems: [404, 422],
  },
  {
    method: "get",
    path: "/projects/{id}",
    summary: "A project with its scene",
    answers: { 200: LoadedProject },
    problems: [404],
  },
  {
    method: "get",
    path: "/projects/{id}/events",
    summary: "Tells a project's state now and after each change, as server-sent events",
    answers: { 200: { media: "text/event-stream" } },
  },
  {
    method: "delete",
    path: "/projects/{id}",
    summary: "Deletes a project; it can be restored",
    answers: { 204: undefined },
    problems: [404],
  },
  {
    method: "post",
    path: "/projects/{id}/allow-programs",
    summary: "Lets programs that came with a project run",
    answers: { 204: undefined },
    problems: [404],
  },
  {
    method: "post",
    path: "/projects/{id}/restore",
    summary: "Restores a deleted project",
    answers: { 204: undefined },
    problems: [404],
  },
  {
    method: "put",
    path: "/projects/{id}/scene",
    summary: "Saves a scene onto the revision it builds on",
    request: SaveScene,
    answers: { 200: SavedScene },
    problems: [404, 409, 422],
  },
  {
    method: "get",
    path: "/projects/{id}/states",
    summary: "The last saved states of a project, the newest first, each with what it changed",
    answers: { 200: SavedStates },
    problems: [404],
  },
  {
    method: "get",
    path: "/projects/{id}/states/{state}",
    summary: "The scene of an earlier state",
    answers: { 200: StateScene },
    problems: [404],
  },
  {
    method: "get",
    path: "/projects/{id}/thumbnail",
    summary: "A project's thumbnail",
    answers: { 200: { media: "image/jpeg" } },
    problems: [404],
  },
  {
    method: "put",
    path: "/projects/{id}/thumbnail",
    summary: "Keeps a project's thumbnail",
    request: { media: "image/jpeg" },
    answers: { 204: undefined },
    problems: [404],
  },
  { method: "get", path: "/storage", summary: "The space that everything takes", answers: { 200: Storage } },
  { method: "get", path: "/bin", summary: "Deleted projects, the last first", answers: { 200: Bin } },
  {
    method: "delete",
    path: "/bin",
    summary: "Removes deleted projects for good",
    answers: { 204: undefined },
  },
  {
    method: "delete",
    path: "/bin/{id}",
    summary: "Removes a deleted project for good",
    answers: { 204: undefined },
    problems: [404],
  },
  {
    method: "post",
    path: "/sounds",
    summary: "Announces a sound; its bytes follow",
    request: NewSound,
    answers: { 201: Created },
  },
  {
    method: "get",
    path: "/sounds/{id}",
    summary: "What is known of a sound",
    answers: { 200: KnownSound },
    problems: [404],
  },
  {
    method: "put",
    path: "/sounds/{id}/bytes",
    summary: "Stores a sound's bytes",
    request: BYTES,
    answers: { 204: undefined },
    problems: [404, 422],
  },
  {
    method: "get",
    path: "/sounds/{id}/bytes",
    summary: "A sound's bytes, or a range of them",
    answers: { 200: BYTES, 206: BYTES },
    problems: [404, 416],
  },
  {
    method: "get",
    path: "/analyses/{key}",
    summary: "A kept analysis result; 204 when there is none",
    answers: { 200: BYTES, 204: undefined },
  },
  {
    method: "put",
    path: "/analyses/{key}",
    summary: "Keeps an analysis result",
    request: BYTES,
    answers: { 204: undefined },
    problems: [413],
  },
  {
    method: "put",
    path: "/assets",
    summary: "Stores an image or model",
    query: NewAsset,
    request: BYTES,
    answers: { 201: Created },
    problems: [422],
  },
  {
    method: "get",
    path: "/assets/{id}/bytes",
    summary: "An image's or model's bytes",
    answers: { 200: BYTES },
    problems: [404],
  },
  ...MADE_WAYS.map((name): Route => {
    const { label, settings, file } = WAYS_OUT[name];
    return {
      method: "get",
      path: `/deliver/{id}/${name}`,
      summary: `A project as: ${label}`,
      query: Type.Partial(Type.Object(settingSchemas(settings as Settings))),
      answers: { 200: { media: file.media } },
      problems: [400, 404, 422],
    };
  }),
  {
    method: "get",
    path: "/feed/{id}",
    summary: "The live feed of a project",
    answers: { 200: FeedState },
    problems: [404],
  },
  {
    method: "put",
    path: "/feed/{id}",
    summary: "Switches the live feed of a project on or off, and says where its OSC goes",
    request: FeedWish,
    answers: { 200: FeedState },
    problems: [400, 404, 422],
  },
  {
    method: "post",
    path: "/feed/{id}/clock",
    summary: "Tells the live feed where the tape is",
    request: FeedClock,
    answers: { 204: undefined },
    problems: [400, 404],
  },
  {
    method: "post",
    path: "/archives",
    summary: "Brings the projects of an archive in",
    request: { media: "application/zip" },
    answers: { 201: ArchiveReport },
    problems: [422],
  },
  {
    method: "get",
    path: "/projects/{id}/films",
    summary: "Films of a project that are made as jobs, the newest first",
    answers: { 200: FilmJobs },
    problems: [404],
  },
  {
    method: "post",
    path: "/projects/{id}/films",
    summary: "Orders a film of a project, as it is saved now; workers make it",
    request: NewFilm,
    answers: { 201: Created },
    problems: [404, 422],
  },
  {
    method: "post",
    path: "/films/{id}/cancel",
    summary: "Stops the making of a film",
    answers: { 204: undefined },
    problems: [404],
  },
  {
    method: "delete",
    path: "/films/{id}",
    summary: "Removes a film",
    answers: { 204: undefined },
    problems: [404],
  },
  {
    method: "get",
    path: "/films/{id}/file",
    summary: "A film that is whole",
    answers: { 200: BYTES },
    problems: [404, 409],
  },
];
