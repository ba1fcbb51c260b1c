import { describe, expect, it } from "@jest/globals";
import { Validator } from "@seriousme/openapi-schema-validator";
import { openApi } from "./openapi";

describe("the OpenAPI description", () => {
  it("is accepted by a checker of the 3.1 specification", async () => {
    const validator = new Validator();
    const { valid, errors } = await validator.validate(JSON.parse(JSON.stringify(openApi("0.1.0"))));
    expect(errors).toBeUndefined();
    expect(valid).toBe(true);
    expect(validator.version).toBe("3.1");
  });

  it("gives every operation a name of its own, and is rejected when it is damaged", async () => {
    const description = openApi("0.1.0");
    const names = Object.values(description.paths).flatMap((path) =>
      Object.values(path).map(({ operationId }) => operationId),
    );
    expect(new Set(names).size).toBe(names.length);
    const damaged = { ...description, info: { title: "Bumbrel" } };
    expect((await new Validator().validate(damaged)).valid).toBe(false);
  });
});
