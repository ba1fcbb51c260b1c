import type { TransportState } from "@bumbrel/player/audio/transport";
import { useSyncExternalStore } from "react";
import { useWorkbench } from "./context";

/** The transport's state and length, which change rarely; the position is read each frame instead. */
export function useTransport(): { state: TransportState; durationS: number } {
  const { transport } = useWorkbench().player;
  const key = useSyncExternalStore(
    (listener) => transport.onChange(listener),
    () => `${transport.state} ${transport.durationS}`,
  );
  const [state, durationS] = key.split(" ");
  return { state: state as TransportState, durationS: Number(durationS) };
}
