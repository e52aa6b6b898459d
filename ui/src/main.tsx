import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";

import "./index.css";
import { ActivityProvider } from "./app/activity";
import { Shell } from "./app/Shell";
import { applyTheme } from "./app/theme";
import { EmptyState, Loading } from "./parts/Notes";
import { ToastProvider } from "./parts/Toasts";
import { YardView } from "./views/yard/YardView";

const BenchView = lazy(() => import("./views/bench/BenchView"));
const HouseView = lazy(() => import("./views/house/HouseView"));
const LedgerView = lazy(() => import("./views/shipment/LedgerView"));
const NewShipmentView = lazy(() => import("./views/shipment/NewShipmentView"));
const ComparedView = lazy(() => import("./views/shipment/ComparedView"));
const RehearsalView = lazy(() => import("./views/shipment/RehearsalView"));
const EngineView = lazy(() => import("./views/engine/EngineView"));
const ShipmentView = lazy(() => import("./views/shipment/ShipmentView"));
const TexturesView = lazy(() => import("./views/textures/TexturesView"));

applyTheme();
// Parts that make styles as they open may do so under the word that the page came with.
setNonce(document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content ?? "");
const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });
const router = createBrowserRouter([
  {
    element: (
      <ToastProvider>
        <ActivityProvider>
          <Shell />
        </ActivityProvider>
      </ToastProvider>
    ),
    errorElement: (
      <EmptyState title="Something went wrong">Load the page again; nothing that was decided is lost.</EmptyState>
    ),
    children: [
      { path: "/", element: <YardView /> },
      {
        path: "/props/:id",
        element: (
          <Suspense fallback={<Loading what="the bench" />}>
            <BenchView />
          </Suspense>
        ),
      },
      {
        path: "/textures",
        element: (
          <Suspense fallback={<Loading what="the textures" />}>
            <TexturesView />
          </Suspense>
        ),
      },
      ...(["line", "destination"] as const).map((kind) => ({
        path: `/${kind}s/:name?`,
        element: (
          <Suspense fallback={<Loading what={`the ${kind}s`} />}>
            <HouseView key={kind} kind={kind} />
          </Suspense>
        ),
      })),
      {
        path: "/shipments",
        element: (
          <Suspense fallback={<Loading what="the ledger" />}>
            <LedgerView />
          </Suspense>
        ),
      },
      {
        path: "/shipments/new",
        element: (
          <Suspense fallback={<Loading what="the ledger" />}>
            <NewShipmentView />
          </Suspense>
        ),
      },
      {
        path: "/shipments/:id",
        element: (
          <Suspense fallback={<Loading what="the shipment" />}>
            <ShipmentView />
          </Suspense>
        ),
      },
      {
        path: "/shipments/:id/compare",
        element: (
          <Suspense fallback={<Loading what="both shipments" />}>
            <ComparedView />
          </Suspense>
        ),
      },
      {
        path: "/shipments/:id/items/:item",
        element: (
          <Suspense fallback={<Loading what="the rehearsal" />}>
            <RehearsalView />
          </Suspense>
        ),
      },
      {
        path: "/engine",
        element: (
          <Suspense fallback={<Loading what="the engine project" />}>
            <EngineView />
          </Suspense>
        ),
      },
      {
        path: "*",
        element: <EmptyState title="There is no such page">Go to the Yard with the name at the upper left.</EmptyState>,
      },
    ],
  },
]);

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root element");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
