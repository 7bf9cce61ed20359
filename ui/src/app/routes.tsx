import { t } from "@lingui/core/macro";
import { type ComponentType, lazy, Suspense } from "react";
import { createBrowserRouter, Link, type LoaderFunctionArgs } from "react-router";
import { useMe, warm } from "../api/hooks";
import { KeysProvider } from "../parts/keys";
import { Empty, Failed, Loading } from "../parts/states";
import { Shell } from "./shell";

const Door = lazy(async () => ({ default: (await import("../features/account/account")).Door }));

function Root() {
  const me = useMe();
  if (me.isPending)
    return (
      <main className="p-8">
        <Loading what={t`Notchback`} />
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

const at = (path: string, view: () => Promise<ComponentType>, before?: (id: string) => void) => ({
  path,
  ...(before && {
    loader: ({ params }: LoaderFunctionArgs) => {
      before(params.id ?? "");
      return null;
    },
  }),
  lazy: async () => ({ Component: await view() }),
});

/** Every address and its view; a view's script comes when it is asked for. */
export const router = createBrowserRouter([
  {
    path: "/join",
    hydrateFallbackElement: (
      <main className="p-8">
        <Loading what={t`Notchback`} />
      </main>
    ),
    errorElement: <Away />,
    lazy: async () => ({ Component: (await import("../features/account/join")).Join }),
  },
  {
    element: <Root />,
    hydrateFallbackElement: (
      <main className="p-8">
        <Loading what={t`Notchback`} />
      </main>
    ),
    errorElement: <Away />,
    children: [
      at("/", async () => (await import("../features/bench/bench")).Bench),
      at("/runners/new", async () => (await import("../features/runner/form")).NewRunner),
      at(
        "/runners/:id",
        async () => (await import("../features/runner/runner")).RunnerView,
        (id) => void warm(id, true),
      ),
      at("/runners/:id/screenings", async () => (await import("../features/runner/places")).ScreeningsPlace),
      at("/runners/:id/clips", async () => (await import("../features/runner/places")).ClipsPlace),
      at("/runners/:id/journal", async () => (await import("../features/runner/places")).JournalPlace),
      at("/runners/:id/edit", async () => (await import("../features/runner/form")).EditRunner),
      at(
        "/runners/:id/block",
        async () => (await import("../features/block/block")).BlockView,
        (id) => void warm(id),
      ),
      at("/runners/:id/plan", async () => (await import("../features/block/plan")).PlanDesk),
      at("/runners/:id/schools", async () => (await import("../features/block/compare")).CompareSchools),
      at("/runners/:id/print", async () => (await import("../features/block/print")).PrintView),
      at("/runners/:id/log", async () => (await import("../features/review/log")).LogView),
      at("/runners/:id/runs", async () => (await import("../features/running/runs")).RunsView),
      at("/runners/:id/ramp", async () => (await import("../features/ramp/ramp")).RampView),
      at("/review", async () => (await import("../features/review/review")).ReviewView),
      at("/practice", async () => (await import("../features/practice/practice")).PracticeView),
      at(
        "/practice/questions",
        async () => (await import("../features/practice/questions")).OwnQuestionsView,
      ),
      at("/practice/people", async () => (await import("../features/practice/people")).PeopleView),
      at("/practice/archive", async () => (await import("../features/practice/archive")).ArchiveView),
      at("/practice/me", async () => (await import("../features/practice/own")).OwnView),
      at("/practice/access", async () => (await import("../features/practice/access")).AccessLog),
      at("/engine", async () => (await import("../features/review/engine")).EngineView),
      at("/review/:id", async () => (await import("../features/review/review")).ReviewView),
      at("/runners/:id/compare", async () => (await import("../features/screening/compare")).CompareView),
      at("/screenings/:id", async () => (await import("../features/screening/screening")).ScreeningView),
      at("/screenings/:id/refer", async () => (await import("../features/screening/sheets")).ReferSheet),
      at("/screenings/:id/sheet", async () => (await import("../features/screening/sheets")).ResultSheet),
      at("/screenings/:id/clips", async () => (await import("../features/clip-desk/clips")).ClipsView),
      at("/clips/:id/beside/:other?", async () => (await import("../features/clip-desk/beside")).BesideView),
      at("/clips/:id", async () => (await import("../features/clip-desk/desk")).DeskView),
      at("/shelf", async () => (await import("../features/shelf/shelf")).ShelfView),
      at("/shelf/exercises", async () => (await import("../features/shelf/exercises")).ExercisesView),
      at("/shelf/routines", async () => (await import("../features/shelf/routines")).RoutinesView),
      at("/shelf/routines/new", async () => (await import("../features/shelf/routineform")).RoutineForm),
      at("/shelf/routines/:id", async () => (await import("../features/shelf/routine")).RoutineView),
      at(
        "/shelf/routines/:id/change",
        async () => (await import("../features/shelf/routineform")).RoutineForm,
      ),
      at("/shelf/figures", async () => (await import("../features/shelf/figures")).FiguresView),
      at("/shelf/schools", async () => (await import("../features/shelf/schools")).SchoolsView),
      at("/shelf/exercises/new", async () => (await import("../features/shelf/exercise")).ExerciseForm),
      at("/shelf/exercises/:id", async () => (await import("../features/shelf/exercise")).ExerciseForm),
      at("/shelf/ladders/new", async () => (await import("../features/shelf/ladderform")).LadderForm),
      at("/shelf/ladders/:id", async () => (await import("../features/shelf/ladderform")).LadderForm),
      {
        path: "*",
        element: (
          <Empty title={t`There is no page here`}>
            <Link className="btn mt-2" to="/">
              {t`To the bench`}
            </Link>
          </Empty>
        ),
      },
    ],
  },
]);
