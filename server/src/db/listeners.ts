import pg from "pg";

/** Time before a connection that broke is made again, ms. */
const AGAIN_MS = 1000;

type OnNotice = (payload: string | undefined) => void;

/** Listens to a PostgreSQL server's notifications, on connections of their own that are made again when they break. */
export class Listeners {
  private readonly url: string;
  private readonly clients = new Set<pg.Client>();
  private readonly timers = new Set<NodeJS.Timeout>();
  private isClosed = false;

  constructor(url: string) {
    this.url = url;
  }

  /** Calls back at each notification of a channel, and with `undefined` after a break: some may have been missed. */
  readonly listen = async (channel: string, onNotice: OnNotice): Promise<void> => {
    const client = new pg.Client({ connectionString: this.url });
    let hasEnded = false;
    const ended = (isToReturn: boolean) => {
      if (hasEnded) return;
      hasEnded = true;
      this.clients.delete(client);
      client.end().catch(() => {});
      if (isToReturn) this.listenAgain(channel, onNotice);
    };
    client.on("error", () => ended(true));
    client.on("end", () => ended(true));
    client.on("notification", ({ payload }) => onNotice(payload));
    this.clients.add(client);
    try {
      await client.connect();
      await client.query(`listen ${client.escapeIdentifier(channel)}`);
    } catch (error) {
      ended(false);
      throw error;
    }
  };

  async close(): Promise<void> {
    this.isClosed = true;
    for (const timer of this.timers) clearTimeout(timer);
    await Promise.all([...this.clients].map((client) => client.end()));
  }

  private listenAgain(channel: string, onNotice: OnNotice): void {
    if (this.isClosed) return;
    const timer = setTimeout(() => {
      this.timers.delete(timer);
      this.listen(channel, onNotice).then(
        () => onNotice(undefined),
        () => this.listenAgain(channel, onNotice),
      );
    }, AGAIN_MS);
    this.timers.add(timer);
  }
}
