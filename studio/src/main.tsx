import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { useUi } from "./session/viewState";
import { Failure } from "./ui/Failure";
import { projectQuery } from "./views/project/projectQuery";
import { ShelfPage } from "./views/shelf/ShelfPage";
import "./index.css";

/** A view is loaded when it is first opened: the shelf needs neither three.js nor any of them. */
const view = (load: () => Promise<React.ComponentType>) => async () => ({ Component: await load() });

const loadProjectPage = () => import("./views/project/ProjectPage");
const loadStrandsView = () => import("./views/strands/StrandsView");

const STOPPED = (
  <Failure
    what="This view stopped working"
    remedy="Open another view, or reload the page: everything saved is kept."
  />
);

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

const router = createBrowserRouter([
  { path: "/", element: <ShelfPage /> },
  {
    path: "/projects/:projectId",
    // Code and project are fetched side by side; the page itself waits for the project.
    lazy: view(async () => (await loadProjectPage()).ProjectPage),
    loader: ({ params: { projectId = "" } }) => {
      void queries.prefetchQuery(projectQuery(projectId));
      return null;
    },
    shouldRevalidate: ({ currentParams, nextParams }) => currentParams.projectId !== nextParams.projectId,
    HydrateFallback: () => <p className="grid h-full place-content-center text-mist">Opening …</p>,
    errorElement: STOPPED,
    // A view that stops takes neither the others along nor what is open.
    children: [
      { index: true, element: <Navigate to="strands" replace /> },
      {
        path: "sounds",
        errorElement: STOPPED,
        lazy: view(async () => (await import("./views/sounds/SoundsView")).SoundsView),
      },
      {
        path: "strands",
        errorElement: STOPPED,
        lazy: view(async () => (await loadStrandsView()).StrandsView),
      },
      {
        path: "stage",
        errorElement: STOPPED,
        lazy: view(async () => (await import("./views/stage/StageView")).StageView),
      },
      {
        path: "try",
        errorElement: STOPPED,
        lazy: view(async () => (await import("./views/try/TryView")).TryView),
      },
      {
        path: "deliver",
        errorElement: STOPPED,
        lazy: view(async () => (await import("./views/deliver/DeliverView")).DeliverView),
      },
    ],
  },
  { path: "*", element: <Failure what="There is no such page" remedy="Go back to the shelf." /> },
]);

// Dialogs and menus put a small style into the page while they are open; the policy admits it by this mark.
setNonce(document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content ?? "");

const followTheme = () => {
  document.documentElement.dataset.theme = useUi.getState().theme;
};
useUi.subscribe(followTheme);
followTheme();

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);

// Prefetch the views that most people open next, once idle.
// Some browsers lack requestIdleCallback: they load it when a project is opened.
window.requestIdleCallback?.(() => void loadProjectPage().then(loadStrandsView));
