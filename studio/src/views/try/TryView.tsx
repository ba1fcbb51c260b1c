import { StageCanvas } from "../stage/StageCanvas";

/** The stage as people meet it in a plain browser window: nothing on it but itself. */
export function TryView() {
  return (
    <main className="min-h-0">
      <StageCanvas />
    </main>
  );
}
