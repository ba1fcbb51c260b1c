import { dirname, join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { serve as startServer } from "@bumbrel/server/serve";
import { type Command, numberFlag, parsed } from "./command";

const ROOT = dirname(dirname(dirname(fileURLToPath(import.meta.url))));

export const serve: Command = {
  name: "serve",
  summary: "runs the workbench",
  help: `bumbrel serve [options]

Runs the workbench and prints its address when it answers. Stop it with Ctrl+C.

  --port PORT   4280 unless said; 0 takes any that is free
  --host HOST   127.0.0.1 unless said: only this machine can reach it
  --allow-host NAME  another name it is reached by; may be given several times. Addresses in figures need none
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
        data: { type: "string" },
      },
      [],
    );
    const server = await startServer({
      host: values.host ?? "127.0.0.1",
      allowHosts: values["allow-host"],
      port: numberFlag("port", values.port ?? "4280", 0, 65_535),
      dataDir: resolve(values.data ?? join(ROOT, ".bumbrel")),
      databaseUrl: process.env.DATABASE_URL || undefined,
      rootDir: ROOT,
      onLost: () => {
        console.error(
          "Another Bumbrel has taken over this data, probably while this machine stood still. This one ends without writing any more.\n",
        );
        process.exit(1);
      },
    });
    console.out(`Bumbrel is ready at ${server.address}\n`);
    await new Promise<void>((stop) => {
      for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop());
    });
    await server.close();
    return 0 as const;
  },
};
