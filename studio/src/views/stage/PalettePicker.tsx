import { changePalette } from "@bumbrel/core/kinds/palette";
import { inksOf, PALETTE_IDS, PALETTES, type PaletteId } from "@bumbrel/core/setting/palettes";
import { Dices, Palette } from "lucide-react";
import { Popover } from "radix-ui";
import { useEditing, useScene } from "../../session/context";
import { Button } from "../../ui/Button";

/** The palette of the scene: one click gives everything on the stage the colours of another. */
export function PalettePicker() {
  const editing = useEditing();
  const { id, seed } = useScene(({ palette }) => palette);
  const choose = (next: PaletteId, nextSeed: number) =>
    editing.edit(`choose the palette ${PALETTES[next].label}`, (scene) =>
      changePalette(scene, next, nextSeed),
    );
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button className="self-center">
          <Palette size={16} aria-hidden /> Palette
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="top" align="end" className="floating z-30 grid w-[420px] gap-2 p-3">
          <p className="text-sm text-mist">
            Everything on the stage takes the colours of the one you choose.
          </p>
          <ul className="grid grid-cols-2 gap-1">
            {PALETTE_IDS.map((one) => (
              <li key={one}>
                <button
                  type="button"
                  title={PALETTES[one].help}
                  aria-pressed={one === id}
                  onClick={() => choose(one, one === id ? seed : 1)}
                  className={`grid w-full gap-1 rounded px-2 py-1.5 text-left text-sm hover:bg-raised ${one === id ? "text-brass" : ""}`}
                >
                  {PALETTES[one].label}
                  <Swatches id={one} seed={one === id ? seed : 1} />
                </button>
              </li>
            ))}
          </ul>
          <Button onClick={() => choose(id, 2 + Math.floor(Math.random() * 1_000_000))}>
            <Dices size={14} aria-hidden /> Another random order of its colours
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Swatches({ id, seed }: { id: PaletteId; seed: number }) {
  const { sky } = PALETTES[id];
  return (
    <span
      aria-hidden
      className="flex h-5 items-center gap-1 rounded px-1.5"
      style={{ background: `linear-gradient(${sky.top}, ${sky.horizon})` }}
    >
      {inksOf(id, seed).map((ink) => (
        <span key={ink} className="size-3 rounded-full" style={{ background: ink }} />
      ))}
    </span>
  );
}
