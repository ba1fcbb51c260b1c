import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Outlet, useParams } from "react-router";
import { SessionContext } from "../../session/context";
import { openSession, type Session } from "../../session/session";
import { useUi } from "../../session/viewState";
import { Failure } from "../../ui/Failure";
import { FramesContext } from "../../ui/live/frames";
import { DraftOffer, useDraft } from "./DraftOffer";
import { ForeignPrograms } from "./ForeignPrograms";
import { projectQuery } from "./projectQuery";
import { Ribbon } from "./Ribbon";
import { SoundPrompt } from "./SoundPrompt";
import { Tape } from "./Tape";
import { useProjectKeys } from "./useProjectKeys";

/** An open project: ribbon above, the tape below, a view between. */
export function ProjectPage() {
  const { projectId = "" } = useParams();
  const queries = useQueryClient();
  const project = useQuery(projectQuery(projectId));
  // A fetched project is out of date as soon as it is edited here.
  useEffect(
    () => () => queries.removeQueries({ queryKey: projectQuery(projectId).queryKey }),
    [queries, projectId],
  );
  const [session, setSession] = useState<Session>();
  const { draft, settle } = useDraft(project.data);
  useEffect(() => {
    if (!project.data || draft === "looking" || draft?.state === "offered") return;
    // Edits that were not saved are made again where they were made: what has been saved elsewhere since is taken in
    // as it is while a project is open.
    const start = draft ? { ...project.data, scene: draft.base, revision: draft.revision } : project.data;
    const made = openSession(start);
    if (draft) {
      const { scene } = draft;
      made.document.edit("bring back what was not saved", (now) => {
        Object.assign(now, scene);
      });
    }
    const { looking, look } = useUi.getState();
    const { transport } = made.player;
    transport.onChange(() => {
      if (transport.state !== "paused" || made.library.sounds.size === 0) return;
      const alone = Object.fromEntries(
        transport.unitIds.map((unit) => [unit, transport.unitPositionS(unit)]),
      );
      look(made.projectId, { positionS: transport.positionS(), alone });
    });
    const { positionS = 0, alone = {} } = looking[made.projectId] ?? {};
    made.playback.startAt(positionS, alone);
    void made.arrivals.takeUp();
    setSession(made);
    return () => {
      setSession(undefined);
      made.dispose();
    };
  }, [project.data, draft]);

  if (project.data && draft !== "looking" && draft?.state === "offered") {
    return <DraftOffer project={project.data} draft={draft} settle={settle} />;
  }
  if (project.isError) {
    return <Failure what="This project cannot be opened" remedy={project.error.message} />;
  }
  if (!session) return <p className="grid h-full place-content-center text-mist">Opening the project …</p>;
  return (
    <SessionContext value={session}>
      <FramesContext value={session.player}>
        <OpenProject />
      </FramesContext>
    </SessionContext>
  );
}

function OpenProject() {
  useProjectKeys();
  return (
    <div className="grid h-full grid-rows-[48px_minmax(0,1fr)_76px]">
      <Ribbon />
      <Outlet />
      <Tape />
      <SoundPrompt />
      <ForeignPrograms />
    </div>
  );
}
