import { describe, expect, it } from "@jest/globals";
import type { TObject } from "@sinclair/typebox";
import { ROUTES } from "./routes";
import { MADE_WAYS, WAY_GROUPS, WAY_OUT_NAMES, WAYS_OUT } from "./waysOut";

describe("the ways out", () => {
  it.each(WAY_OUT_NAMES)("each have words, a file and a group: %s", (name) => {
    const { label, help, action, file, group } = WAYS_OUT[name];
    for (const words of [label, help, action]) expect(words).toMatch(/^[A-Z]/);
    expect(help).toMatch(/\.$/);
    expect(file?.extension ?? "none").toMatch(/^[a-z0-9.]+$/);
    expect(file?.media ?? "none/none").toMatch(/^[a-z]+\/[a-z0-9.+-]+$/);
    expect(Object.keys(WAY_GROUPS)).toContain(group);
  });

  it.each(MADE_WAYS)("that the server makes have a route with their settings: %s", (name) => {
    const route = ROUTES.find(({ method, path }) => method === "get" && path === `/deliver/{id}/${name}`);
    const { properties } = route!.query as TObject;
    expect(Object.keys(properties)).toEqual(Object.keys(WAYS_OUT[name].settings));
  });
});
