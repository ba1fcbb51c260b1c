export default {
  roots: [
    "<rootDir>/core",
    "<rootDir>/runtime",
    "<rootDir>/player",
    "<rootDir>/api",
    "<rootDir>/server",
    "<rootDir>/cli",
    "<rootDir>/studio",
    "<rootDir>/demo",
  ],
  testMatch: ["**/src/**/*.test.ts"],
  // Exhaustive tests are carried out by `npm run test:full`.
  testPathIgnorePatterns: [
    "/node_modules/",
    ...(process.env.BUMBREL_TESTS === "full" ? [] : ["\\.full\\.test\\.ts$"]),
  ],
  transform: {
    "^.+\\.[cm]?[jt]sx?$": [
      "@swc/jest",
      {
        jsc: { parser: { syntax: "typescript", tsx: false }, target: "es2023" },
        module: { type: "commonjs" },
      },
    ],
  },
  transformIgnorePatterns: [
    "/node_modules/(?!(three|nanoid|@seriousme|culori|image-size|@gltf-transform|property-graph|@jitl|quickjs-emscripten-core|osc-min)/)",
  ],
  moduleNameMapper: {
    "^osc-min$": "<rootDir>/node_modules/osc-min/dist/index.js",
    "^@bumbrel/(core|runtime|player|api|server|cli|studio|demo)/(.*)$": "<rootDir>/$1/src/$2",
  },
  // Without this every `Math.x` in a loop goes through the sandbox, a hundred times slower.
  sandboxInjectedGlobals: ["Math", "Number"],
  testTimeout: 60000,
  // By itself Jest leaves one core idle.
  maxWorkers: "100%",
};
