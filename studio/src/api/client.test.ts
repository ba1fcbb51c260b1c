import { newScene } from "@bumbrel/core/kinds/create";
import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { ApiProblem, api } from "./client";

interface Call {
  url: string;
  method?: string;
  headers: Record<string, string>;
  body: unknown;
}

let calls: Call[];
let answer: () => Response | Promise<Response>;
const place = globalThis as unknown as { fetch: unknown; XMLHttpRequest: unknown };
const kept = { fetch: place.fetch, XMLHttpRequest: place.XMLHttpRequest };
const problem = (status: number, body: unknown) =>
  new Response(typeof body === "string" ? body : JSON.stringify(body), { status });

/** Stands where the browser's request stands. */
class FakeRequest {
  static last: FakeRequest;
  upload: { onprogress?: (event: { loaded: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  onabort?: () => void;
  status = 0;
  responseText = "";
  opened: string[] = [];
  sent: unknown;
  constructor() {
    FakeRequest.last = this;
  }
  open(...to: string[]) {
    this.opened = to;
  }
  setRequestHeader(...header: string[]) {
    this.opened.push(header.join(": "));
  }
  send(body: unknown) {
    this.sent = body;
  }
  abort() {
    this.onabort!();
  }
  end(status: number, text = "") {
    this.status = status;
    this.responseText = text;
    this.onload!();
  }
}

beforeEach(() => {
  calls = [];
  answer = () => new Response("{}");
  place.fetch = async (url: string, { method, headers = {}, body }: RequestInit) => {
    calls.push({ url, method, headers: headers as Record<string, string>, body });
    return answer();
  };
  place.XMLHttpRequest = FakeRequest;
});
afterEach(() => {
  Object.assign(place, kept);
});

async function problemOf(promise: Promise<unknown>): Promise<ApiProblem> {
  const error = await promise.then(
    () => undefined,
    (error: unknown) => error,
  );
  expect(error).toBeInstanceOf(ApiProblem);
  return error as ApiProblem;
}

describe("the server's interface", () => {
  it("sends documents as JSON onto the revision they build on", async () => {
    answer = () => new Response(JSON.stringify({ revision: 8 }));
    const scene = newScene("Quay");
    expect(await api.saveScene("p1", 7, scene)).toEqual({ revision: 8 });
    expect(calls).toMatchObject([
      { url: "/api/projects/p1/scene", method: "PUT", headers: { "Content-Type": "application/json" } },
    ]);
    expect(JSON.parse(calls[0].body as string)).toEqual({ revision: 7, scene });
  });

  it("sends images and models as they are, their names where any letter may stand in them", async () => {
    answer = () => new Response(JSON.stringify({ id: "a" }));
    const bytes = new Blob([Uint8Array.of(1, 2)]);
    await api.addAsset("model", "Fähre & Boot", bytes);
    const url = new URL(calls[0].url, "http://quay");
    expect([url.pathname, url.searchParams.get("kind"), url.searchParams.get("name")]).toEqual([
      "/api/assets",
      "model",
      "Fähre & Boot",
    ]);
    expect([calls[0].body === bytes, calls[0].headers["Content-Type"]]).toEqual([
      true,
      "application/octet-stream",
    ]);
  });

  it("asks for a list without a body, and unwraps it", async () => {
    answer = () => new Response(JSON.stringify({ projects: [{ id: "p" }] }));
    expect(await api.projects()).toEqual([{ id: "p" }]);
    expect(calls[0]).toEqual({ url: "/api/projects", method: "GET", headers: {}, body: undefined });
  });

  it("passes on the server's message, with its details", async () => {
    answer = () => problem(409, { detail: "Another window saved first.", revision: 9 });
    const { status, message, body } = await problemOf(api.saveScene("p1", 7, newScene("Quay")));
    expect([status, message, body.revision]).toEqual([409, "Another window saved first.", 9]);
  });

  it("has words where the server had none", async () => {
    answer = () => problem(502, "<html>bad gateway</html>");
    expect((await problemOf(api.projects())).message).toBe("The server answered 502.");
    answer = () => {
      throw new TypeError("fetch failed");
    };
    const gone = await problemOf(api.project("p1"));
    expect(gone.status).toBe(0);
    expect(gone.message).toContain("nothing here is lost");
  });

  it("leaves a cancelled request cancelled", async () => {
    answer = () => {
      throw Object.assign(new Error("given up"), { name: "AbortError" });
    };
    await expect(api.deleteProject("p1")).rejects.toMatchObject({ name: "AbortError" });
  });
});

describe("sending a sound", () => {
  const bytes = new Blob([new Uint8Array(200)]);
  const send = (stop = new AbortController()) => {
    const shares: number[] = [];
    const done = api.sendSoundBytes("s1", bytes, (share) => shares.push(share), stop.signal);
    return { shares, done, stop };
  };

  it("tells how much has gone, and ends when the server has it", async () => {
    const { shares, done } = send();
    const request = FakeRequest.last;
    for (const loaded of [50, 100, 200]) request.upload.onprogress!({ loaded });
    request.end(204);
    await done;
    expect(shares).toEqual([0.25, 0.5, 1]);
    expect(request.opened).toEqual(["PUT", "/api/sounds/s1/bytes", "Content-Type: application/octet-stream"]);
    expect(request.sent).toBe(bytes);
  });

  it("says why the server did not take it", async () => {
    const refused = send();
    FakeRequest.last.end(422, JSON.stringify({ detail: "The upload: the bytes are no WAV file." }));
    expect(await problemOf(refused.done)).toMatchObject({
      status: 422,
      message: "The upload: the bytes are no WAV file.",
    });
    const broken = send();
    FakeRequest.last.end(500, "oh");
    expect((await problemOf(broken.done)).message).toBe("The server answered 500.");
    const gone = send();
    FakeRequest.last.onerror!();
    expect((await problemOf(gone.done)).message).toContain("does not answer");
  });

  it("stops when it is cancelled, and not after its end", async () => {
    const { done, stop } = send();
    stop.abort(new Error("cancelled by hand"));
    await expect(done).rejects.toThrow("cancelled by hand");
    const whole = send();
    FakeRequest.last.end(204);
    await whole.done;
    let aborted = false;
    FakeRequest.last.onabort = () => {
      aborted = true;
    };
    whole.stop.abort();
    expect(aborted).toBe(false);
  });
});
