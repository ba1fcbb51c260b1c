import { WAY_OUT_NAMES, WAYS_OUT, type WayOutName } from "@bumbrel/api/waysOut";
import { Archive, Clapperboard, FileDown, FileJson, Globe, type LucideIcon } from "lucide-react";
import { useState } from "react";
import { deliveryUrl } from "../../api/client";
import { Button } from "../../ui/Button";
import { useWorkbench } from "../project/context";
import { Checks } from "./Checks";
import { FilmWay } from "./film/FilmWay";
import { LookThrough } from "./LookThrough";

const ICONS: Record<WayOutName, LucideIcon> = {
  page: Globe,
  film: Clapperboard,
  archive: Archive,
  scene: FileJson,
};

/** Checks first, then the ways out. */
export function DeliverView() {
  const workbench = useWorkbench();
  const [busy, setBusy] = useState<string>();

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
        <Checks />
        <LookThrough />
        <section aria-label="Ways out">
          <h2 className="pb-2 text-2xl font-semibold">Ways out</h2>
          {WAY_OUT_NAMES.map((name) => {
            const { label, help, action, maker } = WAYS_OUT[name];
            const Icon = ICONS[name];
            return (
              <section
                key={name}
                aria-label={label}
                className="flex items-start gap-6 border-t border-rule py-4 last:border-b"
              >
                <Icon size={26} aria-hidden className="mt-1 shrink-0 text-brass" />
                <div className="grid grow gap-3">
                  <div>
                    <h3 className="text-lg font-semibold">{label}</h3>
                    <p className="text-mist">{help}</p>
                  </div>
                  {maker.at === "browser" && <FilmWay />}
                </div>
                {maker.at === "server" && (
                  <Button
                    look={name === "page" ? "main" : "plain"}
                    className="mt-2"
                    disabled={busy !== undefined}
                    onClick={() => void deliver(name, deliveryUrl(workbench.projectId, maker.path))}
                  >
                    <FileDown size={16} aria-hidden /> {busy === name ? "Saving first …" : action}
                  </Button>
                )}
              </section>
            );
          })}
        </section>
      </div>
    </main>
  );
}
