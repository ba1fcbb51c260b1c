// Prints what a light desk would be told: a row a tenth of a second, a letter for each cue.
// node lights.js [seconds]
import { readFile } from "node:fs/promises";
import { openBaked } from "@bumbrel/runtime";

const numbers = openBaked(await readFile("music/numbers.curves"));
const seconds = Math.min(Number(process.argv[2] ?? numbers.lengthS), numbers.lengthS);
const single = numbers.strands.filter(({ width }) => width === 1);
console.log(["second", ...single.map(({ name }) => name)].join("\t"));
for (let tenth = 0; tenth < seconds * 10; tenth++) {
  const nowS = tenth / 10;
  const row = single.map((strand) => {
    let struck = "";
    strand.eachCue(nowS - 0.1, nowS, () => {
      struck = "*";
    });
    return Math.round(255 * Math.min(1, strand.at(nowS))) + struck;
  });
  console.log([nowS.toFixed(1), ...row].join("\t"));
}
