import { PROGRAM_KINDS } from "@bumbrel/core/program/kinds";
import { ShieldQuestion } from "lucide-react";
import { useState } from "react";
import { useResult, useScene, useSession } from "../../session/context";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";

/** Asks before programs that came from elsewhere run, and shows their code. */
export function ForeignPrograms() {
  const { programs: permission } = useSession();
  const programs = useScene((scene) => scene.programs);
  const isAllowed = useResult((sources) => sources.programs.isAllowed);
  const [isLeft, setLeft] = useState(false);
  const [failure, setFailure] = useState<string>();
  if (isAllowed || programs.length === 0) return null;
  if (isLeft) {
    return (
      <div className="fixed inset-x-0 bottom-24 z-30 grid justify-items-center" role="status">
        <Button className="bg-ground shadow-xl" onClick={() => setLeft(false)}>
          <ShieldQuestion size={16} aria-hidden /> Its programs are off. Look at them
        </Button>
      </div>
    );
  }
  const count = programs.length === 1 ? "a program" : `${programs.length} programs`;
  return (
    <Dialog
      isOpen
      title={`This project brings ${count} from elsewhere`}
      text="They have not run. Programs reach neither the network nor your files, but let them run only if you know where they come from."
      {...(failure !== undefined && { failure })}
      body={
        <div className="max-h-80 overflow-y-auto border-y border-rule">
          {programs.map(({ id, name, kind, code }) => (
            <details key={id} open={programs.length === 1} className="py-2">
              <summary className="cursor-pointer">
                {name} <span className="text-sm text-mist">{PROGRAM_KINDS[kind].label}</span>
              </summary>
              <pre className="figures overflow-x-auto pt-2 text-xs">{code}</pre>
            </details>
          ))}
        </div>
      }
    >
      <Button onClick={() => setLeft(true)}>Leave them off</Button>
      <Button
        look="main"
        onClick={() => void permission.allow().catch((error: Error) => setFailure(error.message))}
      >
        Let them run
      </Button>
    </Dialog>
  );
}
