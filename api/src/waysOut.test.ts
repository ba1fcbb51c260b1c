import { describe, expect, it } from "@jest/globals";
import { ROUTES } from "./routes";
import { WAY_OUT_NAMES, WAYS_OUT } from "./waysOut";

describe("the ways out", () => {
  it.each(WAY_OUT_NAMES)("each have words, and a route where the server makes them: %s", (name) => {
    const { maker, label, help, action } = WAYS_OUT[name];
    if (maker.at === "server") {
      expect(ROUTES.map(({ method, path }) => `${method} ${path}`)).toContain(
        `get /deliver/{id}/${maker.path}`,
      );
    }
    for (const words of [label, help, action]) expect(words).toMatch(/^[A-Z]/);
    expect(help).toMatch(/\.$/);
  });
});
