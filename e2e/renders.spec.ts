import { expect } from "@playwright/test";
import { measureRenders } from "../bench/pages/renders.mjs";
import { FULL } from "./support/full";
import { lightenDemo } from "./support/helpers";
import { prepareServer, server, test } from "./support/sharedServer";

test.beforeAll(prepareServer);

test(
  "dragging one setting renders the components that show it, and little else",
  FULL,
  async ({ browser, page }) => {
    await lightenDemo(page, server.address);
    const { rest, shaping } = await measureRenders(browser, server.address);
    expect(shaping.renders).toBeLessThanOrEqual(25);
    expect(rest.renders).toBeLessThanOrEqual(15);
  },
);
