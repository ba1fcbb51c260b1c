import type { StageObject } from "@bumbrel/core/document/scene";
import { isLayer } from "@bumbrel/core/kinds/programKinds";
import { exposedBy } from "@bumbrel/core/kinds/programs";
import { isInUse, kindOf, propertiesInUse, settingsOfKind } from "@bumbrel/core/kinds/table";
import { SECTIONS, type Section } from "@bumbrel/core/setting/property";
import { useDraggable } from "@dnd-kit/core";
import { ChevronRight, Trash2 } from "lucide-react";
import { LayerOrder } from "../../program/LayerOrder";
import { LinkFields, ProgramField } from "../../program/ProgramFields";
import { sameButRest, useEditing, useNumbers, useScene } from "../../session/context";
import { answersAbout } from "../../session/edits/answers";
import {
  fewNames,
  ownSurface,
  removeObjects,
  renameObject,
  setSetting,
  shareSurface,
  takeApart,
  ungroup,
} from "../../session/edits/stage";
import { type StrandFace, useStrands } from "../../session/strandHooks";
import { useUi } from "../../session/viewState";
import { Button, IconButton } from "../../ui/Button";
import { NameField } from "../../ui/fields/NameField";
import { LiveBar } from "../../ui/live/LiveBar";
import { StrandMark } from "../../ui/StrandMark";
import { strandColour } from "../../ui/strandLook";
import { AnswerList } from "./answers/AnswerList";
import { SettingField } from "./fields";
import { PropertyRow } from "./PropertyRow";

/** Sheet of the chosen objects: bindings as sentences, with the strands along the top. */
export function Sheet({
  objects,
  onChoose,
}: {
  objects: readonly StageObject[];
  onChoose(ids: string[]): void;
}) {
  return (
    <aside aria-label="Sheet" className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)] border-l border-rule">
      <StrandStrip />
      {objects.length > 0 ? (
        <ObjectSheet key={objects[0].id} objects={objects} onChoose={onChoose} />
      ) : (
        <div className="min-h-0 overflow-y-auto px-4 pt-3 pb-6">
          <p className="pb-3 text-mist">
            Choose something on the stage, or in the strip below it, to see what it does and what moves it.
          </p>
          <h2 className="pb-1 font-semibold">What the scene answers</h2>
          <AnswerList />
        </div>
      )}
    </aside>
  );
}

function StrandStrip() {
  const strands = useStrands();
  if (strands.length === 0) {
    return (
      <p className="border-b border-rule px-4 py-3 text-sm text-mist">
        No strands yet: make one in the Strands view.
      </p>
    );
  }
  return (
    <ul aria-label="Strands" className="flex flex-wrap gap-x-1 gap-y-0.5 border-b border-rule px-3 py-1.5">
      {strands.map((strand) => (
        <StrandChip key={strand.id} strand={strand} />
      ))}
    </ul>
  );
}

/** A strand to drop on a property. With the keyboard, a property's own button binds. */
function StrandChip({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: strand.id });
  return (
    <li
      ref={setNodeRef}
      {...listeners}
      title={`Drop ${strand.name} on a property to bind it`}
      className={`grid cursor-grab touch-none gap-1 rounded px-1.5 py-0.5 hover:bg-raised ${isDragging ? "opacity-50" : ""}`}
    >
      <span className="flex items-center gap-1.5 text-sm">
        <StrandMark strand={strand} size={12} />
        {strand.name}
      </span>
      <LiveBar colour={strandColour(strand.hue)} value={(timeS) => numbers.shapedNow(strand.id, timeS)} />
    </li>
  );
}

function ObjectSheet({
  objects,
  onChoose,
}: {
  objects: readonly StageObject[];
  onChoose(ids: string[]): void;
}) {
  const editing = useEditing();
  const [object] = objects;
  const boundKeys = useScene(({ bindings }) =>
    bindings.filter(({ objectId }) => objectId === object.id).map(({ property }) => property),
  );
  const kind = kindOf(object.kind);
  const isMany = objects.length > 1;
  const shared = isMany ? objects.map((one) => propertiesInUse(one)) : [];
  const properties = Object.entries(propertiesInUse(object)).filter(([key, { type }]) =>
    shared.every((all) => all[key]?.type === type),
  );
  const settings = Object.entries(settingsOfKind(object.kind)).filter(
    ([key, setting]) =>
      isInUse(object, setting) &&
      objects.every((one) => settingsOfKind(one.kind)[key]?.type === setting.type),
  );
  const materialId = object.settings.materialId;
  const material = useScene((scene) => scene.objects.find(({ id }) => id === materialId));
  const { programId } = object.settings;
  const program = useScene((scene) => scene.programs.find(({ id }) => id === programId));
  const asksForLinks = program !== undefined && exposedBy(program).some(({ property }) => !property);
  return (
    <div className="min-h-0 overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-center gap-2">
        {isMany ? (
          <span className="min-w-0 grow px-1 text-xl font-semibold">{objects.length} objects</span>
        ) : (
          <NameField
            label="Object name"
            className="min-w-0 grow text-xl"
            value={object.name}
            onRename={(name) => renameObject(editing, object, name)}
          />
        )}
        <span className="text-sm whitespace-nowrap text-mist">{isMany ? "together" : kind.label}</span>
        {!kind.singleton && (
          <IconButton
            label={`Remove ${isMany ? `${objects.length} objects` : object.name}`}
            onClick={() =>
              removeObjects(
                editing,
                objects.map(({ id }) => id),
              )
            }
          >
            <Trash2 size={16} />
          </IconButton>
        )}
      </div>
      <p className="mb-2 text-sm text-mist">
        {isMany ? "What is changed here is changed for all of them." : kind.help}
      </p>
      {!isMany && <Special object={object} onChoose={onChoose} />}
      {!isMany && isLayer(object) && <LayerOrder object={object} />}
      {(Object.keys(SECTIONS) as Section[]).map((section) => {
        const its = properties.filter(([, property]) => property.section === section);
        const chosen = settings.filter(
          ([key, setting]) =>
            setting.section === section && !(material && section === "surface" && key !== "materialId"),
        );
        const hasLinks = section === "program" && asksForLinks;
        if (its.length + chosen.length === 0 && !hasLinks) return null;
        const keys = its.map(([key]) => key);
        const bound = boundKeys.filter((key) => keys.includes(key)).length;
        return (
          <SheetSection key={section} section={section} bound={bound}>
            {chosen.map(([key, setting]) => (
              <div
                key={key}
                className="flex flex-wrap items-center gap-x-2 gap-y-1 border-t border-rule py-1.5"
                title={setting.help}
              >
                <span className="text-mist">{setting.label}</span>
                {setting.type === "reference" && setting.to === "program" ? (
                  <ProgramField objects={objects} label={setting.label} />
                ) : (
                  <SettingField
                    object={object}
                    settingKey={key}
                    setting={setting}
                    onChange={(value) =>
                      setSetting(
                        editing,
                        objects,
                        key,
                        value,
                        `setting ${objects.map(({ id }) => id)} ${key}`,
                      )
                    }
                    onDone={() => editing.endGesture()}
                  />
                )}
              </div>
            ))}
            {section === "program" && <LinkFields objects={objects} />}
            {section === "surface" && material && (
              <SharedSurface object={object} material={material} onChoose={onChoose} />
            )}
            {section === "surface" && !material && !isMany && "materialId" in settingsOfKind(object.kind) && (
              <p className="border-t border-rule py-1.5">
                <Button
                  look="quiet"
                  className="text-sm text-mist"
                  onClick={() => shareSurface(editing, object)}
                >
                  Make a material of this surface
                </Button>
              </p>
            )}
            {its.map(([key]) => (
              <PropertyRow key={key} objects={objects} propertyKey={key} />
            ))}
          </SheetSection>
        );
      })}
      {!isMany && object.kind !== "material" && <Answers object={object} />}
    </div>
  );
}

/** Answers that an object takes part in. */
function Answers({ object }: { object: StageObject }) {
  const count = useScene((scene) => answersAbout(scene, object.id).length);
  return (
    <FoldedSection id="answers" label="Answers" note={count > 0 ? `${count}` : ""}>
      <AnswerList object={object} />
    </FoldedSection>
  );
}

/** A section of the sheet that can be folded; it says how many bindings are in it. */
function SheetSection({
  section,
  bound,
  children,
}: {
  section: Section;
  bound: number;
  children: React.ReactNode;
}) {
  const label = SECTIONS[section];
  if (label === "") return <div>{children}</div>;
  return (
    <FoldedSection id={section} label={label} note={bound > 0 ? `${bound} bound` : ""}>
      {children}
    </FoldedSection>
  );
}

/** A section that can be folded; folded, it says what is in it. */
function FoldedSection({
  id,
  label,
  note,
  children,
}: {
  id: string;
  label: string;
  note: string;
  children: React.ReactNode;
}) {
  const isOpen = useUi(({ closedSections }) => !closedSections.includes(id));
  const toggleSection = useUi((state) => state.toggleSection);
  return (
    <section className="border-t border-rule">
      <button
        type="button"
        aria-expanded={isOpen}
        className="flex w-full items-center gap-1.5 py-2 text-left text-mist hover:text-paper"
        onClick={() => toggleSection(id)}
      >
        <ChevronRight size={14} aria-hidden className={isOpen ? "rotate-90" : ""} />
        <span className="text-sm tracking-wide">{label}</span>
        {!isOpen && note !== "" && <span className="text-xs text-brass">{note}</span>}
      </button>
      {isOpen && children}
    </section>
  );
}

/** A surface that belongs to a material: who uses it, and a way to have one's own. */
function SharedSurface({
  object,
  material,
  onChoose,
}: {
  object: StageObject;
  material: StageObject;
  onChoose(ids: string[]): void;
}) {
  const editing = useEditing();
  return (
    <p className="flex flex-wrap items-center gap-2 border-t border-rule py-1.5 text-sm text-mist">
      <span>
        Its surface is that of <span className="text-paper">{material.name}</span>, used by{" "}
        <UsersOf materialId={material.id} />.
      </span>
      <Button className="text-sm" onClick={() => onChoose([material.id])}>
        Change it for all
      </Button>
      <Button className="text-sm" onClick={() => ownSurface(editing, object)}>
        A copy of its own
      </Button>
    </p>
  );
}

function UsersOf({ materialId }: { materialId: string }) {
  const objects = useScene((scene) => scene.objects, sameButRest);
  const users = objects.filter(({ settings }) => settings.materialId === materialId);
  return <>{users.length === 0 ? "nothing yet" : fewNames(users)}</>;
}

/** Actions that only some kinds have. */
function Special({ object, onChoose }: { object: StageObject; onChoose(ids: string[]): void }) {
  const editing = useEditing();
  const all = useScene((scene) => scene.objects, sameButRest);
  const assets = useScene((scene) => scene.assets);
  if (object.kind === "material") {
    return (
      <p className="border-t border-rule py-1.5 text-sm text-mist">
        Used by <UsersOf materialId={object.id} />. A change here changes all of them.
      </p>
    );
  }
  if (object.kind === "group") {
    const inside = all.filter(({ parentId }) => parentId === object.id);
    return (
      <div className="flex flex-wrap items-center gap-1.5 border-t border-rule py-1.5 text-sm">
        <span className="text-mist">In it:</span>
        {inside.length === 0 && <span className="text-mist">nothing</span>}
        {inside.map(({ id, name }) => (
          <button
            key={id}
            type="button"
            className="rounded-full border border-rule px-2 hover:border-brass"
            onClick={() => onChoose([id])}
          >
            {name}
          </button>
        ))}
        <Button
          className="ml-auto text-sm"
          onClick={() => {
            ungroup(editing, object);
            onChoose(inside.map(({ id }) => id));
          }}
        >
          Take out of the group
        </Button>
      </div>
    );
  }
  const parent = all.find(({ id }) => id === object.parentId);
  const model = assets.find(({ id }) => id === object.settings.modelId);
  return (
    <>
      {parent && (
        <p className="border-t border-rule py-1.5 text-sm text-mist">
          In the group{" "}
          <button type="button" className="text-paper underline" onClick={() => onChoose([parent.id])}>
            {parent.name}
          </button>
          , and moves with it.
        </p>
      )}
      {model?.kind === "model" && model.parts.length > 1 && !object.settings.part && (
        <p className="flex items-center gap-2 border-t border-rule py-1.5 text-sm text-mist">
          {model.parts.length} parts.
          <Button
            className="text-sm"
            onClick={() => {
              const id = takeApart(editing, object, model);
              if (id) onChoose([id]);
            }}
          >
            Split into parts
          </Button>
        </p>
      )}
    </>
  );
}
