import "./index.css";
import "./nonce";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Link, RouterProvider } from "react-router";
import { Door } from "./account/account";
import { Problem } from "./api/client";
import { client, useMe } from "./api/hooks";
import { Bench } from "./bench/bench";
import { BlockView } from "./block/block";
import { CompareSchools } from "./block/compare";
import { PlanDesk } from "./block/plan";
import { PrintView } from "./block/print";
import { RunsView } from "./load/runs";
import { KeysProvider } from "./parts/keys";
import { Shell } from "./parts/shell";
import { Empty, Failed, Loading } from "./parts/states";
import { EngineView } from "./review/engine";
import { LogView } from "./review/log";
import { ReviewView } from "./review/review";
import { EditRunner, NewRunner } from "./runner/form";
import { RunnerView } from "./runner/runner";
import { CompareView } from "./screening/compare";
import { ScreeningView } from "./screening/screening";
import { ReferSheet, ResultSheet } from "./screening/sheets";
import { ExerciseForm, LadderForm } from "./shelf/own";
import { SchoolsView } from "./shelf/schools";
import { ExercisesView, ShelfView } from "./shelf/shelf";

function Root() {
  const me = useMe();
  if (me.isPending)
    return (
      <main className="p-8">
        <Loading what="Notchback" />
      </main>
    );
  if (me.error)
    return (
      <main className="p-8">
        <Failed error={me.error} retry={() => void me.refetch()} />
      </main>
    );
  if (!me.data) return <Door />;
  return (
    <KeysProvider>
      <Shell />
    </KeysProvider>
  );
}

const router = createBrowserRouter([
  {
    element: <Root />,
    children: [
      { path: "/", element: <Bench /> },
      { path: "/runners/new", element: <NewRunner /> },
      { path: "/runners/:id", element: <RunnerView /> },
      { path: "/runners/:id/edit", element: <EditRunner /> },
      { path: "/runners/:id/block", element: <BlockView /> },
      { path: "/runners/:id/plan", element: <PlanDesk /> },
      { path: "/runners/:id/schools", element: <CompareSchools /> },
      { path: "/runners/:id/print", element: <PrintView /> },
      { path: "/runners/:id/log", element: <LogView /> },
      { path: "/runners/:id/runs", element: <RunsView /> },
      { path: "/review", element: <ReviewView /> },
      { path: "/engine", element: <EngineView /> },
      { path: "/review/:id", element: <ReviewView /> },
      { path: "/runners/:id/compare", element: <CompareView /> },
      { path: "/screenings/:id", element: <ScreeningView /> },
      { path: "/screenings/:id/refer", element: <ReferSheet /> },
      { path: "/screenings/:id/sheet", element: <ResultSheet /> },
      { path: "/shelf", element: <ShelfView /> },
      { path: "/shelf/exercises", element: <ExercisesView /> },
      { path: "/shelf/schools", element: <SchoolsView /> },
      { path: "/shelf/exercises/new", element: <ExerciseForm /> },
      { path: "/shelf/exercises/:id", element: <ExerciseForm /> },
      { path: "/shelf/ladders/new", element: <LadderForm /> },
      { path: "/shelf/ladders/:id", element: <LadderForm /> },
      {
        path: "*",
        element: (
          <Empty title="There is no page here">
            <Link className="btn mt-2" to="/">
              To the bench
            </Link>
          </Empty>
        ),
      },
    ],
  },
]);

// Someone signed out elsewhere: show the door.
client.getQueryCache().subscribe((e) => {
  const err = e.query.state.error;
  if (err instanceof Problem && err.status === 401 && e.query.queryKey[0] !== "me") {
    void client.invalidateQueries({ queryKey: ["me"] });
  }
});

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
