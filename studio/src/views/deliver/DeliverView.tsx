import { checkReferences } from "@bumbrel/core/check/references";
import { CircleAlert, CircleCheck, FileDown, Globe } from "lucide-react";
import { useState } from "react";
import { pageUrl, sceneFileUrl } from "../../api/client";
import { Button } from "../../ui/Button";
import { useScene, useWorkbench } from "../project/context";

/** Checks first, then the ways out. */
export function DeliverView() {
  const workbench = useWorkbench();
  const scene = useScene();
  const [busy, setBusy] = useState<string>();
  const findings = checkReferences(scene);
  const heard = scene.sounds.filter((sound) => sound.heard);

  const deliver = async (what: string, url: string) => {
    setBusy(what);
    // What is delivered is what the server has: everything must be saved first.
    await workbench.document.flush();
    const link = document.createElement("a");
    link.href = url;
    link.download = "";
    link.click();
    setBusy(undefined);
  };
  return (
    <main className="min-h-0 overflow-y-auto px-8 py-5">
      <div className="mx-auto grid max-w-4xl gap-8">
        <section aria-label="Checks">
          <h2 className="pb-2 text-2xl font-semibold">Checks</h2>
          {findings.length === 0 ? (
            <p className="flex items-center gap-2 text-mist">
              <CircleCheck size={18} aria-hidden className="text-brass" />
              Everything connects: {scene.bindings.length}{" "}
              {scene.bindings.length === 1 ? "binding" : "bindings"} from {scene.strands.length}{" "}
              {scene.strands.length === 1 ? "strand" : "strands"}.
            </p>
          ) : (
            <ul className="grid gap-2">
              {findings.map(({ where, what, remedy }) => (
                <li key={where + what} className="flex gap-2">
                  <CircleAlert size={18} aria-hidden className="mt-0.5 shrink-0 text-alarm" />
                  <span>
                    {what}. <span className="text-mist">{remedy}.</span>
                  </span>
                </li>
              ))}
            </ul>
          )}
        </section>
        <section aria-label="Ways out">
          <h2 className="pb-2 text-2xl font-semibold">Ways out</h2>
          <div className="flex items-center gap-6 border-t border-rule py-4">
            <Globe size={26} aria-hidden className="shrink-0 text-brass" />
            <div className="grow">
              <h3 className="text-lg font-semibold">Web page</h3>
              <p className="text-mist">
                One file with the scene, its {heard.length === 1 ? "sound" : "sounds"} and the player inside.
                It plays by itself from disk, with no network, and gives the same numbers as here.
              </p>
            </div>
            <Button
              look="main"
              disabled={busy !== undefined}
              onClick={() => void deliver("page", pageUrl(workbench.projectId))}
            >
              <FileDown size={16} aria-hidden /> {busy === "page" ? "Saving first …" : "Take the page"}
            </Button>
          </div>
          <div className="flex items-center gap-6 border-y border-rule py-4">
            <FileDown size={26} aria-hidden className="shrink-0 text-brass" />
            <div className="grow">
              <h3 className="text-lg font-semibold">Scene document</h3>
              <p className="text-mist">
                The scene as JSON, without sounds: for the command line, for version control, or to bring it
                in again here.
              </p>
            </div>
            <Button
              disabled={busy !== undefined}
              onClick={() => void deliver("scene", sceneFileUrl(workbench.projectId))}
            >
              <FileDown size={16} aria-hidden /> {busy === "scene" ? "Saving first …" : "Take the scene"}
            </Button>
          </div>
        </section>
      </div>
    </main>
  );
}
