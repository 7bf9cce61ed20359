import "./index.css";
import "./nonce";
import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Link, RouterProvider } from "react-router";
import { Problem } from "./api/client";
import { client, useMe } from "./api/hooks";
import { Shell } from "./app/shell";
import { Bench } from "./features/bench/bench";
import { KeysProvider } from "./parts/keys";
import { Empty, Failed, Loading } from "./parts/states";

const Door = lazy(async () => ({ default: (await import("./features/account/account")).Door }));

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
  if (!me.data)
    return (
      <Suspense fallback={null}>
        <Door />
      </Suspense>
    );
  return (
    <KeysProvider>
      <Shell />
    </KeysProvider>
  );
}

// A view's script that does not come (the server is away, or newer than this page),
// or a view that failed.
function Away() {
  return (
    <main className="p-8">
      <Failed
        error={new Error("This page did not come up. What you saved is safe.")}
        retry={() => location.reload()}
      />
    </main>
  );
}

const router = createBrowserRouter([
  {
    element: <Root />,
    hydrateFallbackElement: (
      <main className="p-8">
        <Loading what="Notchback" />
      </main>
    ),
    errorElement: <Away />,
    children: [
      { path: "/", element: <Bench /> },
      {
        path: "/runners/new",
        lazy: async () => ({ Component: (await import("./features/runner/form")).NewRunner }),
      },
      {
        path: "/runners/:id",
        lazy: async () => ({ Component: (await import("./features/runner/runner")).RunnerView }),
      },
      {
        path: "/runners/:id/edit",
        lazy: async () => ({ Component: (await import("./features/runner/form")).EditRunner }),
      },
      {
        path: "/runners/:id/block",
        lazy: async () => ({ Component: (await import("./features/block/block")).BlockView }),
      },
      {
        path: "/runners/:id/plan",
        lazy: async () => ({ Component: (await import("./features/block/plan")).PlanDesk }),
      },
      {
        path: "/runners/:id/schools",
        lazy: async () => ({ Component: (await import("./features/block/compare")).CompareSchools }),
      },
      {
        path: "/runners/:id/print",
        lazy: async () => ({ Component: (await import("./features/block/print")).PrintView }),
      },
      {
        path: "/runners/:id/log",
        lazy: async () => ({ Component: (await import("./features/review/log")).LogView }),
      },
      {
        path: "/runners/:id/runs",
        lazy: async () => ({ Component: (await import("./features/running/runs")).RunsView }),
      },
      {
        path: "/runners/:id/ramp",
        lazy: async () => ({ Component: (await import("./features/ramp/ramp")).RampView }),
      },
      {
        path: "/review",
        lazy: async () => ({ Component: (await import("./features/review/review")).ReviewView }),
      },
      {
        path: "/practice",
        lazy: async () => ({ Component: (await import("./features/practice/practice")).PracticeView }),
      },
      {
        path: "/practice/access",
        lazy: async () => ({ Component: (await import("./features/practice/access")).AccessLog }),
      },
      {
        path: "/engine",
        lazy: async () => ({ Component: (await import("./features/review/engine")).EngineView }),
      },
      {
        path: "/review/:id",
        lazy: async () => ({ Component: (await import("./features/review/review")).ReviewView }),
      },
      {
        path: "/runners/:id/compare",
        lazy: async () => ({ Component: (await import("./features/screening/compare")).CompareView }),
      },
      {
        path: "/screenings/:id",
        lazy: async () => ({ Component: (await import("./features/screening/screening")).ScreeningView }),
      },
      {
        path: "/screenings/:id/refer",
        lazy: async () => ({ Component: (await import("./features/screening/sheets")).ReferSheet }),
      },
      {
        path: "/screenings/:id/sheet",
        lazy: async () => ({ Component: (await import("./features/screening/sheets")).ResultSheet }),
      },
      {
        path: "/screenings/:id/clips",
        lazy: async () => ({ Component: (await import("./features/clip-desk/clips")).ClipsView }),
      },
      {
        path: "/clips/:id/beside/:other?",
        lazy: async () => ({ Component: (await import("./features/clip-desk/beside")).BesideView }),
      },
      {
        path: "/clips/:id",
        lazy: async () => ({ Component: (await import("./features/clip-desk/desk")).DeskView }),
      },
      {
        path: "/shelf",
        lazy: async () => ({ Component: (await import("./features/shelf/shelf")).ShelfView }),
      },
      {
        path: "/shelf/exercises",
        lazy: async () => ({ Component: (await import("./features/shelf/exercises")).ExercisesView }),
      },
      {
        path: "/shelf/schools",
        lazy: async () => ({ Component: (await import("./features/shelf/schools")).SchoolsView }),
      },
      {
        path: "/shelf/exercises/new",
        lazy: async () => ({ Component: (await import("./features/shelf/exercise")).ExerciseForm }),
      },
      {
        path: "/shelf/exercises/:id",
        lazy: async () => ({ Component: (await import("./features/shelf/exercise")).ExerciseForm }),
      },
      {
        path: "/shelf/ladders/new",
        lazy: async () => ({ Component: (await import("./features/shelf/ladderform")).LadderForm }),
      },
      {
        path: "/shelf/ladders/:id",
        lazy: async () => ({ Component: (await import("./features/shelf/ladderform")).LadderForm }),
      },
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
