import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, test } from "@playwright/test";
import { generate } from "selfsigned";
import { waitUntilSaved } from "./support/helpers";
import { TestServer } from "./support/server";

const folder = mkdtempSync(join(tmpdir(), "bumbrel-tls-"));
const [certFile, keyFile] = [join(folder, "cert.pem"), join(folder, "key.pem")];
const server = new TestServer(undefined, ["--host", "0.0.0.0", "--tls-cert", certFile, "--tls-key", keyFile]);
test.use({ ignoreHTTPSErrors: true });
test.beforeAll(async () => {
  const { cert, private: key } = await generate([{ name: "commonName", value: "localhost" }]);
  writeFileSync(certFile, cert);
  writeFileSync(keyFile, key);
  await server.start();
});
test.afterAll(async () => {
  await server.remove();
  rmSync(folder, { recursive: true });
});

test("over TLS nobody gets in without the token, and with it everything works", async ({ page, context }) => {
  const address = server.address.replace("0.0.0.0", "localhost");
  expect(address).toMatch(/^https:/);
  const [, token] = /shown again:\s+(\S+)/.exec(server.said)!;
  expect((await page.request.get(`${address}/api/projects`)).status()).toBe(401);

  await page.goto(`${address}/projects/any/stage`);
  await expect(page.getByRole("heading", { name: "Bumbrel" })).toBeVisible();
  await page.getByLabel("Access token").fill("guess");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toContainText("This is not the token");
  await page.getByLabel("Access token").fill(token);
  await page.getByRole("button", { name: "Sign in" }).click();

  await page.getByRole("button", { name: "New project", exact: true }).click();
  const name = page.getByRole("textbox", { name: "Project name" });
  await name.fill("Behind the wall");
  await name.press("Enter");
  await waitUntilSaved(page);
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  const cookies = await context.cookies(address);
  expect(cookies).toMatchObject([{ httpOnly: true, secure: true, sameSite: "Strict" }]);
  await page.reload();
  await expect(name).toHaveValue("Behind the wall");
});
