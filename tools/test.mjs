/**
 * `npm test`: installs what is missing, then types, lint, unit tests, build, a short campaign and browser tests. All of
 * them run even when one fails. The last line sums up: each check counts one, each test one; a test that passed only when
 * it was tried again counts as failed. `npm run test:full` carries out the exhaustive tests as well.
 */
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join, relative } from "node:path";
import { ensureChromium, ensureFfmpeg, ensureInstalled, ensureReaders, ROOT, run } from "./setup.mjs";

// Jest, Playwright and the tests themselves read it.
if (process.argv.includes("--full")) process.env.BUMBREL_TESTS = "full";
ensureInstalled();
ensureChromium();
ensureFfmpeg();
ensureReaders();

const results = join(ROOT, "test-results");
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });
const total = { passed: 0, failed: 0 };

const node = (...args) => run(process.execPath, args);
const bin = (path) => join(ROOT, "node_modules", path);

function heading(text) {
  console.log(`\n— ${text} —`);
}

/** A check that either holds or does not. */
function check(text, carryOut) {
  heading(text);
  const holds = carryOut() === 0;
  total[holds ? "passed" : "failed"]++;
  console.log(`${text}: ${holds ? "passed" : "failed"}`);
}

/** Prints how long each file took, slowest first, so that growth is seen; quick ones are left out. */
function printTimes(seconds) {
  const slow = [...seconds].filter(([, s]) => s >= 5).sort(([, a], [, b]) => b - a);
  console.log("\nSeconds by file:");
  for (const [file, s] of slow) console.log(`${s.toFixed(0).padStart(5)}  ${file}`);
}

/** Seconds of each browser test, added up by file. */
function browserTimes({ suites }) {
  const seconds = new Map();
  const visit = ({ file, specs = [], suites: inner = [] }) => {
    for (const { tests } of specs)
      for (const { results } of tests)
        for (const { duration } of results) seconds.set(file, (seconds.get(file) ?? 0) + duration / 1000);
    for (const suite of inner) visit(suite);
  };
  for (const suite of suites) visit(suite);
  return seconds;
}

/** A test runner: its own counts are taken over; one that leaves none behind has failed. */
function runner(text, carryOut, file, counts, times) {
  heading(text);
  const code = carryOut();
  const path = join(results, file);
  if (!existsSync(path)) {
    total.failed++;
    return;
  }
  const report = JSON.parse(readFileSync(path, "utf8"));
  const { passed, failed } = counts(report);
  printTimes(times(report));
  total.passed += passed;
  total.failed += failed;
  if (code !== 0 && failed === 0) total.failed++;
  if (passed + failed === 0) total.failed++;
}

check("types", () => node(join(ROOT, "tools/typecheck.mjs")));
check("import rules", () => node(join(ROOT, "tools/build/lintRules.mjs"), "--check"));
check("lint", () => node(bin("@biomejs/biome/bin/biome"), "ci", "--error-on-warnings", "."));
runner(
  "unit tests",
  () =>
    node(
      "--experimental-vm-modules",
      "--disable-warning=ExperimentalWarning",
      bin("jest/bin/jest.js"),
      "--json",
      `--outputFile=${join(results, "unit.json")}`,
    ),
  "unit.json",
  ({ numPassedTests, numFailedTests, numRuntimeErrorTestSuites }) => ({
    passed: numPassedTests,
    failed: numFailedTests + numRuntimeErrorTestSuites,
  }),
  ({ testResults }) =>
    testResults.map(({ name, startTime, endTime }) => [relative(ROOT, name), (endTime - startTime) / 1000]),
);
check("build", () => node(join(ROOT, "tools/build/build.mjs")));
check("campaign, short", () => node(join(ROOT, "tools/campaign.mjs"), "0.04", "built"));
/** Browser tests of some projects of the configuration, so many at a time. */
const browserTests = (text, file, workers, ...projects) =>
  runner(
    text,
    () => {
      process.env.BUMBREL_REPORT = join(results, file);
      const chosen = projects.map((project) => `--project=${project}`);
      return node(bin("@playwright/test/cli.js"), "test", `--workers=${workers}`, ...chosen);
    },
    file,
    ({ stats }) => ({ passed: stats.expected, failed: stats.unexpected + stats.flaky }),
    browserTimes,
  );
browserTests("browser tests, two at a time", "e2e.json", 2, "workbench");
const ONE_BY_ONE = ["timed", "visits", "watching", "held-back", "with-microphone"];
browserTests("browser tests in time with sound", "timed.json", 1, ...ONE_BY_ONE);

console.log(`\n${total.passed} passed, ${total.failed} failed`);
process.exitCode = total.failed > 0 ? 1 : 0;
