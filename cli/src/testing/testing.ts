import { main } from "../main";

/** Runs the command line and keeps what it says, for tests. */
export async function bumbrel(...args: string[]) {
  const said = { out: "", error: "" };
  const code = await main(args, {
    out: (text) => {
      said.out += text;
    },
    error: (text) => {
      said.error += text;
    },
  });
  return { code, ...said };
}
