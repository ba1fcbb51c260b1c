import type { ProjectSummary } from "@bumbrel/api/contracts";
import { EXAMPLE_LIST, type ExampleId } from "@bumbrel/api/exampleList";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  AudioLines,
  Copy,
  FilePlus2,
  FileUp,
  Footprints,
  Lamp,
  type LucideIcon,
  RectangleGoggles,
  Search,
  Smartphone,
  Trash2,
} from "lucide-react";
import { useRef, useState } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { Link, useNavigate } from "react-router";
import { api, thumbnailUrl } from "../../api/client";
import { useUi } from "../../session/viewState";
import { Button, IconButton } from "../../ui/Button";
import { formatLength } from "../../ui/format";
import { KindMenu } from "../../ui/KindMenu";
import { ThemeButton } from "../../ui/ThemeButton";
import { BandPrint } from "./BandPrint";
import { Bin } from "./Bin";

const PROJECTS = ["projects"];
const EXAMPLE_ICONS: Record<ExampleId, LucideIcon> = {
  "regatta-night": Lamp,
  "tuning-shed": AudioLines,
  "fog-bell": Footprints,
  "ferry-card": Smartphone,
  slipway: RectangleGoggles,
};

const broughtIn = ({ name, isNew }: { name: string; isNew: boolean }) =>
  isNew ? `“${name}” was brought in.` : `“${name}” is here already.`;

/** The home page: all projects. */
export function ShelfPage() {
  const theme = useUi((state) => state.theme);
  const setTheme = useUi((state) => state.setTheme);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [wanted, setWanted] = useState("");
  const [notice, setNotice] = useState<{ text: string; undoId?: string }>();
  const fileInput = useRef<HTMLInputElement>(null);
  const list = useQuery({ queryKey: PROJECTS, queryFn: api.projects });
  const refresh = () => {
    void queries.invalidateQueries({ queryKey: ["bin"] });
    return queries.invalidateQueries({ queryKey: PROJECTS });
  };
  const onError = (error: Error) => setNotice({ text: error.message });

  const create = useMutation({
    mutationFn: api.createProject,
    onSuccess: ({ id }) => navigate(`/projects/${id}/${"strands"}`),
    onError,
  });
  const copy = useMutation({
    mutationFn: (id: string) => api.createProject({ copyOf: id }),
    onSuccess: refresh,
    onError,
  });
  const remove = useMutation({
    mutationFn: ({ id }: ProjectSummary) => api.deleteProject(id),
    onSuccess: (_, { id, name }) => {
      setNotice({ text: `“${name}” was deleted.`, undoId: id });
      return refresh();
    },
    onError,
  });
  const restore = useMutation({
    mutationFn: api.restoreProject,
    onSuccess: () => {
      setNotice(undefined);
      return refresh();
    },
    onError,
  });

  const importArchive = useMutation({
    mutationFn: api.importArchive,
    onSuccess: ({ projects, problems }) => {
      setNotice({ text: [...projects.map(broughtIn), ...problems].join(" ") });
      return refresh();
    },
    onError,
  });

  const importFile = async (file: File) => {
    // A ZIP file begins so, whatever its name is.
    if ((await file.slice(0, 2).text()) === "PK") {
      importArchive.mutate(file);
      return;
    }
    try {
      create.mutate({ scene: JSON.parse(await file.text()) });
    } catch {
      setNotice({
        text: `${file.name} is neither a Bumbrel archive (ZIP) nor a scene (JSON). Choose a file that Deliver wrote.`,
      });
    }
  };

  const shown = (list.data ?? []).filter(({ name }) =>
    name.toLowerCase().includes(wanted.trim().toLowerCase()),
  );
  return (
    <div className="mx-auto grid h-full max-w-6xl grid-rows-[auto_auto_1fr_auto] px-8 pt-8">
      <header className="flex items-end justify-between gap-6 pb-6">
        <div>
          <h1 className="flex items-center gap-3 text-4xl font-semibold tracking-tight">
            <img src="/icon.svg" alt="" className="size-10" />
            Bumbrel
          </h1>
          <p className="mt-1 text-mist">
            Make things move to sound. Every number at run time, every setting kept.
          </p>
        </div>
        <ThemeButton theme={theme} onChange={setTheme} />
      </header>

      <div className="flex flex-wrap items-center gap-3 border-y border-rule py-3">
        <label className="flex grow items-center gap-2 text-mist">
          <Search size={16} aria-hidden />
          <input
            aria-label="Search projects"
            placeholder="Search projects"
            className="grow bg-transparent py-1 text-paper placeholder:text-mist"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
        </label>
        <Button disabled={importArchive.isPending} onClick={() => fileInput.current?.click()}>
          <FileUp size={16} aria-hidden /> {importArchive.isPending ? "Importing …" : "Import"}
        </Button>
        <input
          ref={fileInput}
          type="file"
          aria-label="Archive or scene to import"
          accept=".zip,.json,application/zip,application/json"
          hidden
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) void importFile(file);
            event.target.value = "";
          }}
        />
        <KindMenu
          words="New from an example"
          items={EXAMPLE_LIST.map(({ id, name, help }) => ({
            label: name,
            help,
            icon: EXAMPLE_ICONS[id],
            onSelect: () => create.mutate({ example: id }),
          }))}
        />
        <Button
          look="main"
          disabled={create.isPending}
          onClick={() => create.mutate({ name: "New project" })}
        >
          <FilePlus2 size={16} aria-hidden /> New project
        </Button>
      </div>

      <main className="overflow-y-auto py-2" aria-label="Projects">
        {notice && (
          <p role="status" className="my-2 flex items-center gap-3 rounded bg-raised px-4 py-2">
            {notice.text}
            {notice.undoId && (
              <button
                type="button"
                className="text-brass underline"
                onClick={() => restore.mutate(notice.undoId!)}
              >
                Bring it back
              </button>
            )}
          </p>
        )}
        {list.isPending && <p className="py-16 text-center text-mist">Fetching your projects …</p>}
        {list.isError && (
          <div className="grid justify-items-center gap-3 py-16" role="alert">
            <p>{list.error.message}</p>
            <Button onClick={() => list.refetch()}>Try again</Button>
          </div>
        )}
        {list.isSuccess && list.data.length === 0 && (
          <p className="py-16 text-center text-mist">
            The shelf is empty. Start with <em>Regatta Night</em> to see a finished piece, or with a new
            project of your own.
          </p>
        )}
        {list.isSuccess && list.data.length > 0 && shown.length === 0 && (
          <p className="py-16 text-center text-mist">No project is called “{wanted}”.</p>
        )}
        <ul>
          {shown.map((project) => (
            <li key={project.id} className="group relative flex items-center gap-6 border-b border-rule py-3">
              <ErrorBoundary fallback={<BrokenRow project={project} />}>
                <Thumbnail project={project} />
                <div className="min-w-0 grow">
                  <Link
                    to={`/projects/${project.id}/strands`}
                    className="text-xl font-semibold after:absolute after:inset-0 group-hover:text-brass"
                  >
                    {project.name}
                  </Link>
                  {project.about && <p className="truncate text-sm">{project.about}</p>}
                  <p className="text-sm text-mist">
                    changed{" "}
                    {new Date(project.changedAt).toLocaleString(undefined, {
                      dateStyle: "medium",
                      timeStyle: "short",
                    })}
                  </p>
                </div>
                <BandPrint heights={project.bandPrint} />
                <span className="figures w-14 text-right">
                  {project.durationS > 0 ? formatLength(project.durationS) : "—"}
                </span>
                <span className="relative flex">
                  <IconButton label={`Duplicate ${project.name}`} onClick={() => copy.mutate(project.id)}>
                    <Copy size={16} />
                  </IconButton>
                  <IconButton label={`Delete ${project.name}`} onClick={() => remove.mutate(project)}>
                    <Trash2 size={16} />
                  </IconButton>
                </span>
              </ErrorBoundary>
            </li>
          ))}
        </ul>
      </main>
      <Bin onChange={() => void refresh()} />
    </div>
  );
}

/** A project whose row cannot be drawn: the others can, and it can be opened all the same. */
function BrokenRow({ project }: { project: ProjectSummary }) {
  return (
    <p className="py-6 text-alarm">
      This row cannot be shown.{" "}
      <Link to={`/projects/${project.id}/sounds`} className="underline">
        Open {project.name || "the project"}
      </Link>
    </p>
  );
}

function Thumbnail({ project }: { project: ProjectSummary }) {
  const frame = "h-24 w-40 shrink-0 rounded bg-sunk object-cover";
  if (project.hasThumbnail) return <img src={thumbnailUrl(project)} alt="" className={frame} />;
  return (
    <span className={`${frame} grid place-content-center text-xs text-mist`}>
      <Lamp size={28} aria-hidden className="mx-auto mb-1 opacity-60" />
      no image yet
    </span>
  );
}
