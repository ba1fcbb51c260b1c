import { pageParts } from "@bumbrel/server/deliver/pageParts";
import { FilmJobs } from "@bumbrel/server/film/filmJobs";
import { BlobStore } from "@bumbrel/server/store/blobs";
import { FilmStore } from "@bumbrel/server/store/films";
import { ROOT } from "./data";
import { DATA_HELP, withProjects } from "./projects/stores";
import type { Command } from "./support/command";
import { parsed } from "./support/command";

export const worker: Command = {
  help: `bumbrel worker [--data DIR]

Takes shares of films that were ordered in the workbench, until it is stopped with Ctrl+C. Any number of workers, on any
machines with the same DATABASE_URL, share the work; what one had in hand when it ended goes on elsewhere.

${DATA_HELP}`,
  async run(args, console) {
    const { values } = parsed(args, { data: { type: "string" } }, []);
    const page = await pageParts(ROOT);
    return withProjects(values.data, async (stores, db) => {
      const films = new FilmStore(db, new BlobStore(db));
      const onError = (error: Error) => console.error(`${error.message}\n`);
      const jobs = new FilmJobs({ db, stores, films, page, onError });
      await jobs.open();
      jobs.work();
      console.out(`${jobs.worker} waits for films\n`);
      await new Promise<void>((stop) => {
        for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop());
      });
      await jobs.close();
      return 0 as const;
    });
  },
};
