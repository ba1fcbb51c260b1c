import { readFileSync } from "node:fs";
import type { RequestListener } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { BumbrelError } from "@bumbrel/core/errors";
import pino from "pino";
import { type OpenDatabase, openDatabase } from "./db/open";
import { pageParts } from "./deliver/pageParts";
import { Access, type AccessToken, accessToken } from "./door/access";
import { Door, isLoopback } from "./door/door";
import { guardedServer } from "./door/guardedServer";
import { makeExamples, showExamples } from "./examples";
import { FeedRoom, type FeedRoomSettings } from "./feed/feedRoom";
import { FilmJobs } from "./film/filmJobs";
import { createApp } from "./http/app";
import { Room } from "./http/room";
import { AnalysisStore } from "./store/analyses";
import { AssetStore } from "./store/assets";
import { BlobStore } from "./store/blobs";
import { cleanUp, DAY_MS } from "./store/cleanUp";
import { FilmStore } from "./store/films";
import { ProjectStore } from "./store/projects";
import { SoundStore } from "./store/sounds";
import { IdleVerifier, Verifier } from "./store/verify";

/** How often what nobody needs any more is removed: once a day, and at each start. */
const CLEAN_UP_MS = DAY_MS;

/** Live feeds that this machine alone can reach. */
const FEED_HERE: FeedRoomSettings = { port: 4281, host: "127.0.0.1", allowed: [] };

/** A connection on which nothing moves for so long is closed, ms. */
const STANDSTILL_MS = 120_000;

export interface ServeSettings {
  host: string;
  /** Further names that it is reached by. */
  allowHosts?: readonly string[];
  /** 0 takes any free port. */
  port: number;
  dataDir: string;
  databaseUrl?: string;
  /** Root of the checkout, where the built rooms are. */
  rootDir: string;
  /** Lets in everybody who reaches the server. On this machine alone nobody is asked for a token anyway. */
  withoutToken?: boolean;
  /** Makes another access token: the one of before opens nothing any more. */
  newToken?: boolean;
  /** Port of live feeds, and the targets they may send to. */
  feed?: FeedRoomSettings;
  /** Leaves the making of films to workers of their own. */
  withoutWorker?: boolean;
  /** PEM files; with them the server speaks TLS. */
  tls?: { certFile: string; keyFile: string };
  /** Called when another process has taken the data: end at once, without writing any more. */
  onLost?(error: Error): void;
}

export interface RunningServer {
  address: string;
  /** The access token, when it has just been made: it is never shown again. */
  token: string | undefined;
  /** True if it asks for an access token. */
  asksForToken: boolean;
  /** Why nothing can be changed, if so. */
  readOnly: string | undefined;
  close(): Promise<void>;
}

/**
 * Opens the database, makes the examples and answers.
 *
 * @throws BumbrelError when something prevents it that a person can fix: no build, the port taken, the data in use
 */
export async function serve(settings: ServeSettings): Promise<RunningServer> {
  const log = pino({ level: process.env.BUMBREL_LOG ?? "warn" });
  const page = await pageParts(settings.rootDir);
  const tls = settings.tls && tlsParts(settings.tls);
  // An address that cannot be listened on is found out before anything is made or changed.
  const { server, answerWith } = await listen(settings, tls);
  let database: OpenDatabase;
  try {
    database = await openDatabase({
      databaseUrl: settings.databaseUrl,
      dataDir: settings.dataDir,
      migrationsDir: join(settings.rootDir, "server/migrations"),
      preparedDir: join(settings.rootDir, "server/dist/prepared"),
      onLost: settings.onLost,
    });
  } catch (error) {
    server.close();
    throw error;
  }
  const { readOnly } = database;
  const projects = new ProjectStore(database.db);
  const room = new Room(settings.dataDir);
  // A database server keeps its data elsewhere.
  const isRoomLimited = settings.databaseUrl === undefined;
  const blobs = new BlobStore(database.db, isRoomLimited ? room.assert : undefined);
  const sounds = new SoundStore(database.db, blobs);
  const assets = new AssetStore(database.db, blobs);
  const films = new FilmStore(database.db, blobs);
  const jobs = new FilmJobs({
    db: database.db,
    stores: { projects, sounds, assets },
    films,
    page,
    isAlone: settings.databaseUrl === undefined,
    onError: (error) => log.error(error),
  });
  const feedSettings = settings.feed ?? FEED_HERE;
  let token: AccessToken | undefined;
  let access: Access | undefined;
  const feeds = new FeedRoom(feedSettings, () => access);
  const verifying = new IdleVerifier(new Verifier(database.db, blobs), (error) => log.error(error));
  let cleaning: NodeJS.Timeout | undefined;
  const close = async () => {
    clearInterval(cleaning);
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await feeds.close();
    await jobs.close();
    await verifying.stop();
    access?.close();
    await database.close();
  };
  const isApiOpen = !isLoopback(settings.host);
  try {
    if (readOnly === undefined) {
      await blobs.sweep();
      await makeExamples(projects, sounds, join(settings.dataDir, "examples"));
      await showExamples(projects, join(settings.rootDir, "demo/pictures"));
      await cleanUp(database.db);
      cleaning = setInterval(() => void cleanUp(database.db).catch((error) => log.error(error)), CLEAN_UP_MS);
      cleaning.unref();
      await database.takeFirstCopy();
      await jobs.open();
      if (!settings.withoutWorker) jobs.work();
    }
    if ((isApiOpen || !isLoopback(feedSettings.host)) && !settings.withoutToken) {
      token = accessToken(settings.dataDir, settings.newToken ?? false);
      access = new Access(token);
    }
    answerWith(
      createApp({
        room,
        isRoomLimited,
        notices: () => [...(readOnly === undefined ? [] : [readOnly]), ...verifying.flaws.values()],
        onRequest: verifying.asked,
        access: isApiOpen ? access : undefined,
        isSecure: tls !== undefined,
        projects,
        sounds,
        analyses: new AnalysisStore(database.db),
        assets,
        films,
        jobs,
        feeds,
        page,
        studioDir: join(settings.rootDir, "studio/dist"),
        personDir: join(settings.rootDir, "player/dist/person"),
        log,
      }),
    );
  } catch (error) {
    await close();
    throw error;
  }
  const { port } = server.address() as AddressInfo;
  const host = settings.host.includes(":") ? `[${settings.host}]` : settings.host;
  return {
    token: token?.shown,
    asksForToken: isApiOpen && token !== undefined,
    readOnly,
    address: `${tls ? "https" : "http"}://${host}:${port}`,
    close,
  };
}

/**
 * Begins to listen; until there is something to answer with, requests are told to come back.
 *
 * @throws BumbrelError when the address cannot be listened on
 */
async function listen(settings: ServeSettings, tls: ReturnType<typeof tlsParts> | undefined) {
  let app: RequestListener = (_request, response) => {
    response.writeHead(503, { "Retry-After": "1" }).end();
  };
  const server = guardedServer({
    door: new Door({
      host: settings.host,
      allowHosts: settings.allowHosts,
      isSecure: tls !== undefined,
      pages: "own",
    }),
    tls,
    answer: (request, response) => app(request, response),
  });
  // An upload may take as long as it takes, but not stand still.
  server.requestTimeout = 0;
  server.setTimeout(STANDSTILL_MS);
  await new Promise<void>((resolve, reject) => {
    server.once("error", (error) => reject(listeningProblem(error, settings) ?? error));
    server.listen(settings.port, settings.host, resolve);
  });
  return {
    server,
    answerWith(made: RequestListener) {
      app = made;
    },
  };
}

/** @throws BumbrelError when a file cannot be read */
function tlsParts({ certFile, keyFile }: { certFile: string; keyFile: string }) {
  const read = (path: string) => {
    try {
      return readFileSync(path);
    } catch (error) {
      throw new BumbrelError({
        code: "tls-file",
        what: `this file of the certificate cannot be read (${(error as NodeJS.ErrnoException).code})`,
        where: path,
        remedy: "Give --tls-cert and --tls-key the paths of PEM files",
      });
    }
  };
  return { cert: read(certFile), key: read(keyFile) };
}

/** Explains why the server cannot listen; `undefined` for causes that a person cannot fix. */
function listeningProblem({ code }: NodeJS.ErrnoException, { host, port }: ServeSettings) {
  const problem = (what: string, remedy: string, name: string) =>
    new BumbrelError({ code: name, what, where: host, remedy });
  switch (code) {
    case "EADDRINUSE":
      return problem(
        `port ${port} is taken by another program`,
        "Choose another with --port, or 0 for any that is free",
        "port-taken",
      );
    case "EACCES":
      return problem(`port ${port} may not be used`, "Choose one above 1023 with --port", "port-refused");
    case "ENOTFOUND":
    case "EAI_AGAIN":
    case "EADDRNOTAVAIL":
      return problem(
        "this machine has no such address to listen on",
        "Give --host one of its own addresses, or leave it out",
        "host-unknown",
      );
    default:
      return undefined;
  }
}
