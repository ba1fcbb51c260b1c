/**
 * `npm test`: installs what is missing, then types, lint, unit tests, build, a short campaign and browser tests. All of
 * them run even when one fails. The last line sums up: each check counts one, each test one.
 */
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { ensureChromium, ensureFfmpeg, ensureInstalled, ensureReaders, ROOT, run } from "./setup.mjs";

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

/** A test runner: its own counts are taken over; one that leaves none behind has failed. */
function runner(text, carryOut, file, counts) {
  heading(text);
  const code = carryOut();
  const path = join(results, file);
  if (!existsSync(path)) {
    total.failed++;
    return;
  }
  const { passed, failed } = counts(JSON.parse(readFileSync(path, "utf8")));
  total.passed += passed;
  total.failed += failed;
  if (code !== 0 && failed === 0) total.failed++;
  if (passed + failed === 0) total.failed++;
}

check("types", () => node(join(ROOT, "tools/typecheck.mjs")));
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
);
check("build", () => node(join(ROOT, "tools/build.mjs")));
check("campaign, short", () => node(join(ROOT, "tools/campaign.mjs"), "0.04", "built"));
runner(
  "browser tests",
  () => node(bin("@playwright/test/cli.js"), "test"),
  "e2e.json",
  ({ stats }) => ({ passed: stats.expected + stats.flaky, failed: stats.unexpected }),
);

console.log(`\n${total.passed} passed, ${total.failed} failed`);
process.exitCode = total.failed > 0 ? 1 : 0;
