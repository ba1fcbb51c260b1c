import { queryOptions } from "@tanstack/react-query";
import { api } from "../../api/client";

/** How long a project that was fetched ahead waits for its page. */
const AHEAD_MS = 10_000;

/**
 * Fetches a project for its page.
 *
 * The open project is the truth from then on; a fetch behind its back would bring an older one.
 */
export const projectQuery = (projectId: string) =>
  queryOptions({
    queryKey: ["project", projectId],
    queryFn: () => api.project(projectId),
    staleTime: AHEAD_MS,
    gcTime: AHEAD_MS,
    refetchOnReconnect: false,
  });
