import { WAY_OUT_NAMES, WAYS_OUT, type WayOutName } from "@bumbrel/api/waysOut";
import { checkReferences } from "@bumbrel/core/check/references";
import { Archive, CircleAlert, CircleCheck, FileDown, FileJson, Globe, type LucideIcon } from "lucide-react";
import { useState } from "react";
import { deliveryUrl } from "../../api/client";
import { Button } from "../../ui/Button";
import { useScene, useWorkbench } from "../project/context";

const ICONS: Record<WayOutName, LucideIcon> = { page: Globe, archive: Archive, scene: FileJson };

/** Checks first, then the ways out. */
export function DeliverView() {
  const workbench = useWorkbench();
  const scene = useScene();
  const [busy, setBusy] = useState<string>();
  const findings = checkReferences(scene);

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
          {WAY_OUT_NAMES.map((name) => {
            const { label, help, action, maker } = WAYS_OUT[name];
            const Icon = ICONS[name];
            return (
              <div key={name} className="flex items-center gap-6 border-t border-rule py-4 last:border-b">
                <Icon size={26} aria-hidden className="shrink-0 text-brass" />
                <div className="grow">
                  <h3 className="text-lg font-semibold">{label}</h3>
                  <p className="text-mist">{help}</p>
                </div>
                <Button
                  look={name === "page" ? "main" : "plain"}
                  disabled={busy !== undefined}
                  onClick={() => void deliver(name, deliveryUrl(workbench.projectId, maker.path))}
                >
                  <FileDown size={16} aria-hidden /> {busy === name ? "Saving first …" : action}
                </Button>
              </div>
            );
          })}
        </section>
      </div>
    </main>
  );
}
