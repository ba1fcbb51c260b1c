import { Volume2 } from "lucide-react";
import { useSyncExternalStore } from "react";
import { usePlayer } from "../../session/context";
import { Button } from "../../ui/Button";

/** Asks for the gesture a browser may want before it lets sound start; there only while it really does. */
export function SoundPrompt() {
  const { transport } = usePlayer();
  const isHeld = useSyncExternalStore(
    (listener) => transport.onChange(listener),
    () => transport.isHeld,
  );
  if (!isHeld) return null;
  return (
    <div className="fixed inset-x-0 bottom-24 z-50 grid justify-items-center" role="alert">
      <Button look="main" className="px-6 py-3 text-lg shadow-xl" onClick={() => transport.ensureContext()}>
        <Volume2 size={20} aria-hidden /> Start the sound
      </Button>
    </div>
  );
}
