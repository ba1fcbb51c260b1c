import { connect } from "node:net";

const KEY = "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nSec-WebSocket-Version: 13\r\n";
const UPGRADE = `Connection: Upgrade\r\nUpgrade: websocket\r\n${KEY}`;
const head = (line: string, more = "", host = "127.0.0.1") =>
  `${line} HTTP/1.1\r\nHost: ${host}\r\n${more}\r\n`;

/** Messages of broken or hostile programs to a port; each is followed by a reset, by an end, or by nothing. */
const SAID: readonly string[] = [
  head("GET //"),
  head("GET //", UPGRADE),
  head("GET /nowhere", UPGRADE),
  head("GET /socket", UPGRADE),
  head("GET /socket", UPGRADE, "evil.example"),
  head("GET /socket", `${UPGRADE}Origin: http://evil.example\r\n`),
  head("GET http://[::1", UPGRADE),
  head("GET /%"),
  head("GET /socket?format=%E0%A4%A"),
  head("GET /events"),
  head("GET /events", "Origin: null\r\n"),
  head("POST /", "Content-Length: 99999999999\r\n"),
  `${head("POST /", "Transfer-Encoding: chunked\r\n")}FFFFFFFFFF\r\n`,
  head("GET /", `X-Long: ${"x".repeat(30_000)}\r\n`),
  "GET / HTTP/9.9\r\n\r\n",
  "\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03",
  "\0\0\0\0",
  "GET",
  "",
  `${head("GET /socket", UPGRADE)}\x81\xff\xff\xff\xff\xff\xff\xff\xff\xff`,
  `${head("GET /socket", UPGRADE)}\xff\xff\xff\xff`,
];

/**
 * Opens connections that break off, one after the other and some at a time.
 *
 * @returns when the last one is closed
 */
export async function breakConnections(port: number, count: number): Promise<void> {
  const one = (i: number) =>
    new Promise<void>((resolve) => {
      const socket = connect(port, "127.0.0.1");
      socket.on("error", () => {});
      socket.on("close", () => resolve());
      socket.resume();
      socket.write(Buffer.from(SAID[i % SAID.length], "latin1"));
      const way = Math.floor(i / SAID.length) % 3;
      setTimeout(
        () => (way === 0 ? socket.resetAndDestroy() : way === 1 ? socket.end() : socket.destroy()),
        i % 7,
      );
      setTimeout(() => socket.destroy(), 300);
    });
  const AT_A_TIME = 10;
  for (let from = 0; from < count; from += AT_A_TIME) {
    await Promise.all(Array.from({ length: Math.min(AT_A_TIME, count - from) }, (_none, i) => one(from + i)));
  }
}
