import type { IncomingMessage } from "node:http";
import { isIP } from "node:net";
import { HttpProblem } from "../problem/problem";
import type { Access } from "./access";

/** Host names of a server that only this machine can reach. */
const LOOPBACK_NAMES = ["127.0.0.1", "localhost", "::1"];
const READING_METHODS: ReadonlySet<string> = new Set(["GET", "HEAD", "OPTIONS"]);

/** True if a server that listens on an address can be reached from this machine alone. */
export const isLoopback = (host: string): boolean => LOOPBACK_NAMES.includes(host);

export interface DoorSettings {
  /** The address that the port listens on. */
  host: string;
  /** Further names it is reached by. */
  allowHosts?: readonly string[] | undefined;
  /** True if it speaks TLS. */
  isSecure?: boolean;
  /**
   * Pages that may ask for anything here: those that come from this very port may change things, as a browser says; or
   * pages of this machine, and none else may even read.
   */
  pages: "own" | "of-this-machine";
  /** Further origins whose pages may ask, such as `https://game.example`. */
  allowOrigins?: readonly string[] | undefined;
  /** Clients that have to show the access token; none if missing. */
  access?: Access | undefined;
}

/** Decides who may come in through a port. Every port that the product opens has one. */
export class Door {
  readonly access: Access | undefined;
  private readonly settings: DoorSettings;
  private readonly names: ReadonlySet<string>;
  private readonly isOpen: boolean;

  constructor(settings: DoorSettings) {
    const { host, allowHosts = [], access } = settings;
    this.settings = settings;
    this.access = access;
    this.isOpen = !isLoopback(host);
    this.names = new Set(
      [...LOOPBACK_NAMES, ...(this.isOpen ? [host] : []), ...allowHosts].map((name) => name.toLowerCase()),
    );
  }

  /** Why a request may not come in, by the name it asks for and the page it comes from; `undefined` if it may. */
  refusal(request: IncomingMessage): HttpProblem | undefined {
    return this.hostRefusal(request) ?? this.pageRefusal(request);
  }

  /** The origin that an answer may be read by, for a page that is not of this port. */
  readableBy({ headers: { origin } }: IncomingMessage): string | undefined {
    return origin !== undefined && this.isPageOfThisMachine(origin) ? origin : undefined;
  }

  /**
   * Requires the token of those who come from other machines; programs on this one need nothing.
   *
   * @param query  `token` of the address
   * @throws HttpProblem  (as a rejection) for those without
   */
  async requireToken(request: IncomingMessage, query: string | null): Promise<void> {
    const { access } = this;
    if (!access || isFromThisMachine(request)) return;
    const shown = access.shownBy(request, query);
    if (shown === "right") return;
    if (shown === "wrong") await access.countWrong(request);
    throw new HttpProblem(
      401,
      "token-needed",
      "Programs on other machines show the access token: as Authorization: Bearer, or as ?token= in the address.",
      {},
      { "WWW-Authenticate": "Bearer" },
    );
  }

  /**
   * A web page elsewhere could point a name of its own at this machine and read projects through its visitor's browser.
   * An address in figures is no such name.
   */
  private hostRefusal({ headers }: IncomingMessage): HttpProblem | undefined {
    const name = hostNameOf(headers.host);
    if (this.names.has(name) || (this.isOpen && isIP(name) !== 0)) return undefined;
    return new HttpProblem(
      403,
      "other-host",
      `This server does not answer as "${name}". Open it as ${[...this.names].join(" or ")}, or start it with --allow-host ${name || "NAME"}.`,
    );
  }

  /** A browser sends what a page from elsewhere asks for with whatever its user may do here. */
  private pageRefusal({ method = "GET", headers }: IncomingMessage): HttpProblem | undefined {
    const { origin, host } = headers;
    const site = headers["sec-fetch-site"];
    const { pages, isSecure = false } = this.settings;
    if (pages === "of-this-machine") {
      if (origin === undefined || this.isPageOfThisMachine(origin)) return undefined;
      return new HttpProblem(
        403,
        "other-origin",
        `Pages of ${origin === "null" ? "files" : origin} may not read this feed. Start Bumbrel with --feed-origin ${origin} to let them.`,
      );
    }
    if (READING_METHODS.has(method)) return undefined;
    const isForeign =
      origin === undefined
        ? site !== undefined && site !== "same-origin" && site !== "none"
        : origin.toLowerCase() !== `${isSecure ? "https" : "http"}://${host}`.toLowerCase();
    if (!isForeign) return undefined;
    return new HttpProblem(403, "other-origin", "Only Bumbrel's own pages may change anything here.");
  }

  private isPageOfThisMachine(origin: string): boolean {
    if (this.settings.allowOrigins?.includes(origin)) return true;
    return URL.canParse(origin) && this.names.has(bare(new URL(origin).hostname));
  }
}

const bare = (name: string) => name.replace(/^\[|\]$/g, "").toLowerCase();
const hostNameOf = (host = "") => bare(host.replace(/:\d*$/, ""));

/** True if it comes from this machine and was not passed on by a proxy. */
function isFromThisMachine({ socket, headers }: IncomingMessage): boolean {
  const from = (socket.remoteAddress ?? "").replace(/^::ffff:/, "");
  const isPassedOn = headers.forwarded !== undefined || headers["x-forwarded-for"] !== undefined;
  return !isPassedOn && (from === "::1" || from.startsWith("127."));
}
