import { Volume2 } from "lucide-react";
import { Button } from "../ui/Button";
import { useWorkbench } from "./context";
import { useTransport } from "./useTransport";

/** Asks for the gesture a browser may want before it lets sound start; there only while it really does. */
export function SoundPrompt() {
  const { transport } = useWorkbench().player;
  const { state } = useTransport();
  if (state !== "held") return null;
  return (
    <div className="fixed inset-x-0 bottom-24 z-50 grid justify-items-center" role="alert">
      <Button look="main" className="px-6 py-3 text-lg shadow-xl" onClick={() => transport.play()}>
        <Volume2 size={20} aria-hidden /> Start the sound
      </Button>
    </div>
  );
}
