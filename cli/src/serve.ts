import { serve as startServer } from "@bumbrel/server/serve";
import { dataFolder, ROOT } from "./data";
import { type Command, numberFlag, parsed, UsageError } from "./support/command";

export const serve: Command = {
  help: `bumbrel serve [options]

Runs the workbench and prints its address when it answers. Stop it with Ctrl+C.

  --port PORT   4280 unless said; 0 takes any that is free
  --host HOST   127.0.0.1 unless said: only this machine can reach it
                On another address it asks for an access token, which is shown at the first start
  --new-token   makes another access token: the one of before opens nothing any more
  --no-token    lets everybody in who reaches it
  --tls-cert FILE, --tls-key FILE  PEM files, to speak TLS
  --allow-host NAME  another name it is reached by; may be given several times. Addresses in figures need none
  --feed-port PORT  where programs connect to a live feed: 4281 unless said; another one where it is taken
  --feed-host HOST  the address a live feed listens on: 127.0.0.1 unless said
                On another address programs on other machines show the access token
  --feed-to HOST    another machine that a live feed may send OSC to; may be given several times
  --feed-origin ORIGIN  pages from elsewhere that may read a live feed, such as https://game.example
  --no-worker   makes no films itself: "bumbrel worker" does, here or elsewhere
  --data DIR    where projects and sounds are kept: .bumbrel in the checkout unless said

With DATABASE_URL set, projects and sounds are kept in that PostgreSQL server instead.
`,
  async run(args, console) {
    const { values } = parsed(
      args,
      {
        port: { type: "string" },
        host: { type: "string" },
        "allow-host": { type: "string", multiple: true },
        "new-token": { type: "boolean" },
        "no-token": { type: "boolean" },
        "no-worker": { type: "boolean" },
        "feed-port": { type: "string" },
        "feed-host": { type: "string" },
        "feed-to": { type: "string", multiple: true },
        "feed-origin": { type: "string", multiple: true },
        "tls-cert": { type: "string" },
        "tls-key": { type: "string" },
        data: { type: "string" },
      },
      [],
    );
    const [certFile, keyFile] = [values["tls-cert"], values["tls-key"]];
    if ((certFile === undefined) !== (keyFile === undefined)) {
      throw new UsageError("--tls-cert and --tls-key go together");
    }
    const server = await startServer({
      withoutToken: values["no-token"],
      withoutWorker: values["no-worker"],
      newToken: values["new-token"],
      ...(certFile !== undefined && keyFile !== undefined && { tls: { certFile, keyFile } }),
      host: values.host ?? "127.0.0.1",
      allowHosts: values["allow-host"],
      port: numberFlag("port", values.port ?? "4280", 0, 65_535),
      dataDir: dataFolder(values.data),
      databaseUrl: process.env.DATABASE_URL || undefined,
      rootDir: ROOT,
      feed: {
        port: numberFlag("feed-port", values["feed-port"] ?? "4281", 0, 65_535),
        host: values["feed-host"] ?? "127.0.0.1",
        allowed: values["feed-to"] ?? [],
        allowHosts: values["allow-host"],
        allowOrigins: values["feed-origin"],
      },
      onLost: () => {
        console.error(
          "Another Bumbrel has taken over this data, probably while this machine stood still. This one ends without writing any more.\n",
        );
        process.exit(1);
      },
    });
    if (server.readOnly !== undefined) console.error(`WARNING: ${server.readOnly}\n`);
    console.out(`Bumbrel is ready at ${server.address}\n`);
    if (server.token !== undefined && !server.asksForToken) {
      console.out(
        `Programs on other machines connect to a live feed with this access token. It is not shown again:\n\n  ${server.token}\n\n`,
      );
    } else if (server.token !== undefined) {
      console.out(`Sign in with this access token. It is not shown again:\n\n  ${server.token}\n\n`);
    } else if (server.asksForToken) {
      console.out("Sign in with the access token of the first start; --new-token makes another.\n");
    } else if (values["no-token"]) {
      console.error(
        "WARNING: everybody who reaches this address can read, change and delete every project. Start without --no-token to ask for an access token.\n",
      );
    }
    await new Promise<void>((stop) => {
      for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop());
    });
    await server.close();
    return 0 as const;
  },
};
