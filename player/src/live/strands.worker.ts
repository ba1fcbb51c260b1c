import { StrandHost, type ToStrands } from "./strandHost";

const scope = self as unknown as {
  postMessage(message: unknown): void;
  onmessage: ((event: MessageEvent<ToStrands>) => void) | null;
};
const host = new StrandHost((message) => scope.postMessage(message));
scope.onmessage = ({ data }) => host.take(data);
