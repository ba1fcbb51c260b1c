import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2, Undo2 } from "lucide-react";
import { useState } from "react";
import { api } from "../../api/client";
import { Button, IconButton } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { formatBytes } from "../../ui/format";

const BIN = ["bin"];
/** With less room than this on the disk, saving large sounds may fail soon. */
const LOW_SPACE_BYTES = 1024 ** 3;

const day = (when: string) => new Date(when).toLocaleDateString(undefined, { dateStyle: "medium" });

/** Deleted projects, which can be brought back for a while, and the room that everything takes. */
export function Bin({ onChange }: { onChange(): void }) {
  const queries = useQueryClient();
  const [isOpen, setOpen] = useState(false);
  const [isAsking, setAsking] = useState(false);
  const bin = useQuery({ queryKey: BIN, queryFn: api.bin });
  const storage = useQuery({ queryKey: ["storage"], queryFn: api.storage });
  const changed = () => {
    void queries.invalidateQueries({ queryKey: BIN });
    void queries.invalidateQueries({ queryKey: ["storage"] });
    onChange();
  };
  const restore = useMutation({ mutationFn: api.restoreProject, onSuccess: changed });
  const remove = useMutation({ mutationFn: api.removeForGood, onSuccess: changed });
  const empty = useMutation({ mutationFn: api.emptyBin, onSuccess: changed });
  const failure = restore.error ?? remove.error ?? empty.error;
  const deleted = bin.data ?? [];
  const { usedBytes = 0, freeBytes = null } = storage.data ?? {};
  const isLow = freeBytes !== null && freeBytes < LOW_SPACE_BYTES;
  return (
    <footer className="border-t border-rule py-3 text-sm text-mist">
      <div className="flex items-center gap-3">
        <p className={isLow ? "text-alarm" : ""}>
          {storage.isSuccess && `Sounds and images take ${formatBytes(usedBytes)}`}
          {freeBytes !== null && `; ${formatBytes(freeBytes)} are free on this disk`}
          {isLow && ". Free some space: large sounds may soon not fit."}
        </p>
        <span className="grow" />
        {deleted.length > 0 && (
          <Button aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            <Trash2 size={14} aria-hidden /> Deleted projects ({deleted.length})
          </Button>
        )}
      </div>
      {storage.data?.notices.map((notice) => (
        <p key={notice} role="alert" className="text-alarm">
          {notice}
        </p>
      ))}
      {failure && (
        <p role="alert" className="text-alarm">
          {failure.message}
        </p>
      )}
      {isOpen && deleted.length > 0 && (
        <section aria-label="Deleted projects" className="mt-2 grid max-h-48 gap-1 overflow-y-auto">
          <ul>
            {deleted.map(({ id, name, deletedAt, goneAt }) => (
              <li key={id} className="flex items-center gap-3 border-t border-rule py-1">
                <span className="min-w-0 grow truncate text-paper">{name}</span>
                <span>
                  deleted {day(deletedAt)}, kept until {day(goneAt)}
                </span>
                <IconButton label={`Bring back ${name}`} onClick={() => restore.mutate(id)}>
                  <Undo2 size={16} />
                </IconButton>
                <IconButton label={`Remove ${name} for good`} onClick={() => remove.mutate(id)}>
                  <Trash2 size={16} />
                </IconButton>
              </li>
            ))}
          </ul>
          <Button className="justify-self-end" onClick={() => setAsking(true)}>
            Remove all for good …
          </Button>
        </section>
      )}
      <Dialog
        isOpen={isAsking}
        title="Remove all deleted projects for good?"
        text={`${deleted.length === 1 ? "One project" : `${deleted.length} projects`} cannot be brought back after that. Their sounds go later, when nothing has used them for 30 days.`}
      >
        <Button onClick={() => setAsking(false)}>Keep them</Button>
        <Button
          look="main"
          onClick={() => {
            setAsking(false);
            empty.mutate();
          }}
        >
          Remove for good
        </Button>
      </Dialog>
    </footer>
  );
}
