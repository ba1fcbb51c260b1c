import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { DeliverView } from "./deliver/DeliverView";
import "./index.css";
import { ProjectPage } from "./project/ProjectPage";
import { useUi } from "./project/ui";
import { ShelfPage } from "./shelf/ShelfPage";
import { SoundsView } from "./sounds/SoundsView";
import { StageView } from "./stage/StageView";
import { TryView } from "./stage/TryView";
import { StrandsView } from "./strands/StrandsView";
import { Failure } from "./ui/Failure";

const router = createBrowserRouter([
  { path: "/", element: <ShelfPage /> },
  {
    path: "/projects/:projectId",
    element: <ProjectPage />,
    errorElement: (
      <Failure what="This view stopped working" remedy="Reload the page; everything saved is kept." />
    ),
    children: [
      { index: true, element: <Navigate to="strands" replace /> },
      { path: "sounds", element: <SoundsView /> },
      { path: "strands", element: <StrandsView /> },
      { path: "stage", element: <StageView /> },
      { path: "try", element: <TryView /> },
      { path: "deliver", element: <DeliverView /> },
    ],
  },
  { path: "*", element: <Failure what="There is no such page" remedy="Go back to the shelf." /> },
]);

// Dialogs and menus put a small style into the page while they are open; the policy admits it by this mark.
setNonce(document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content ?? "");

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

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
