import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { createServer as createSecureServer } from "node:https";
import type { Duplex } from "node:stream";
import { HttpProblem, problemBody, toProblem } from "../problem/problem";
import type { Door } from "./door";

export interface GuardedSettings {
  door: Door;
  tls?: { cert: Buffer; key: Buffer } | undefined;
  answer(request: IncomingMessage, response: ServerResponse): void | Promise<void>;
  /** Takes over a connection that is to become another protocol; without it there is none. */
  upgrade?(request: IncomingMessage, socket: Duplex, head: Buffer): void | Promise<void>;
  /** Connections at once; more are closed. */
  mostConnections?: number;
}

/**
 * The one way in which the product opens a port: nothing comes to `answer` or `upgrade` that the door refuses, and nothing
 * that a connection does ends the process.
 */
export function guardedServer({ door, tls, answer, upgrade, mostConnections }: GuardedSettings): Server {
  const guarded = (request: IncomingMessage, response: ServerResponse) => {
    response.on("error", () => response.destroy());
    void carryOut(
      () => {
        const refusal = door.refusal(request);
        if (refusal) throw refusal;
        return answer(request, response);
      },
      (problem) => refuse(response, problem),
    );
  };
  const server: Server = tls ? createSecureServer(tls, guarded) : createServer(guarded);
  if (mostConnections !== undefined) server.maxConnections = mostConnections;
  server.on("upgrade", (request: IncomingMessage, socket: Duplex, head: Buffer) => {
    socket.on("error", () => socket.destroy());
    void carryOut(
      () => {
        const refusal = door.refusal(request);
        if (refusal) throw refusal;
        if (!upgrade) throw new HttpProblem(404, "not-found", "Nothing is connected to here.");
        return upgrade(request, socket, head);
      },
      (problem) => refuseUpgrade(socket, problem),
    );
  });
  return server;
}

async function carryOut(work: () => void | Promise<void>, onProblem: (problem: HttpProblem) => void) {
  try {
    await work();
  } catch (error) {
    onProblem(toProblem(error));
  }
}

/** Says in an answer why a request is refused. */
export function refuse(response: ServerResponse, problem: HttpProblem): void {
  if (response.headersSent) {
    response.destroy();
    return;
  }
  response.writeHead(problem.status, { "Content-Type": "application/problem+json", ...problem.headers });
  response.end(problemBody(problem));
}

function refuseUpgrade(socket: Duplex, problem: HttpProblem): void {
  if (!socket.writable) {
    socket.destroy();
    return;
  }
  const body = problemBody(problem);
  socket.end(
    `HTTP/1.1 ${problem.status} Refused\r\nConnection: close\r\nContent-Type: application/problem+json\r\nContent-Length: ${Buffer.byteLength(body)}\r\n\r\n${body}`,
  );
}

/** The path and query of a request, whatever it is that was sent in their place. */
export function addressOf({ url = "/" }: IncomingMessage): URL {
  // A path that begins with two slashes would name another host.
  const text = `http://bumbrel${url.startsWith("/") ? "" : "/"}${url.replace(/^\/{2,}/, "/")}`;
  return URL.canParse(text) ? new URL(text) : new URL("http://bumbrel/");
}
