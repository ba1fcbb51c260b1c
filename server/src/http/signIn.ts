import express, { type RequestHandler, Router } from "express";
import { type Access, COOKIE, SESSION_MS } from "../door/access";
import { HttpProblem } from "../problem/problem";

export const SIGN_IN = "/sign-in";

/**
 * Lets only those in who have the access token: by a cookie that the sign-in page gives, or as `Authorization: Bearer`.
 *
 * @param isSecure  whether the server speaks TLS, so that the cookie never travels without
 */
export function requireToken(access: Access, isSecure: boolean): Router {
  const router = Router();
  router.get(SIGN_IN, (_request, response) => {
    response.type("html").set("Cache-Control", "no-store").send(signInPage(""));
  });
  router.post(SIGN_IN, express.urlencoded({ extended: false, limit: "4kb" }), async (request, response) => {
    const { token } = (request.body ?? {}) as { token?: unknown };
    if (!access.isToken(token)) {
      await access.countWrong(request);
      response
        .status(401)
        .type("html")
        .set("Cache-Control", "no-store")
        .send(signInPage("This is not the token. It was shown where Bumbrel was started."));
      return;
    }
    response.cookie(COOKIE, access.newSession(), {
      httpOnly: true,
      sameSite: "strict",
      secure: isSecure,
      maxAge: SESSION_MS,
      encode: String,
    });
    response.redirect(303, "/");
  });

  const onlyInsiders: RequestHandler = async (request, response, next) => {
    const shown = access.shownBy(request);
    if (shown === "right") {
      next();
      return;
    }
    if (shown === "wrong") await access.countWrong(request);
    if (!request.path.startsWith("/api/") && request.method === "GET") {
      response.redirect(303, SIGN_IN);
      return;
    }
    response.set("WWW-Authenticate", "Bearer");
    throw new HttpProblem(401, "sign-in-first", "Sign in with the access token first.");
  };
  router.use(onlyInsiders);
  return router;
}

/** Nothing of it needs styles or scripts, which the policy would have to let in. */
function signInPage(note: string): string {
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Sign in to Bumbrel</title>
<h1>Bumbrel</h1>
<form method="post" action="${SIGN_IN}">
<p><label for="token">Access token</label></p>
<p><input id="token" name="token" type="password" autocomplete="current-password" size="48" required autofocus></p>
<p role="alert">${note}</p>
<p><button>Sign in</button></p>
<p>The token was shown where this server was started. Starting it with <code>--new-token</code> makes another.</p>
</form>
</html>
`;
}
