import { plural, t } from "@lingui/core/macro";
import { useMutation, useMutationState } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Link, NavLink, Outlet, ScrollRestoration, useNavigate } from "react-router";
import { api, need } from "../api/client";
import { client, useMe } from "../api/hooks";
import { dropQueue, held as isHeld, waiting as waitingIn } from "../api/queue";
import { nonce } from "../nonce";
import { dropDrafts, unsent } from "../parts/drafts";
import { sign, useKeys } from "../parts/keys";
import { Logo } from "../parts/marks";
import { useGuide } from "./guided";

const GuideStrip = lazy(async () => ({ default: (await import("./guide")).GuideStrip }));

export function useTheme(): [string, () => void] {
  const [theme, setTheme] = useState(
    () =>
      localStorage.getItem("theme") ??
      (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light"),
  );
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  return [
    theme,
    () => {
      const next = theme === "dark" ? "light" : "dark";
      localStorage.setItem("theme", next);
      setTheme(next);
    },
  ];
}

export function Shell() {
  const me = useMe();
  const [theme, flip] = useTheme();
  const go = useNavigate();
  const guide = useGuide();
  const [waiting, setWaiting] = useState(0);
  const stay = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (waiting > 0) stay.current?.focus();
  }, [waiting]);
  const held = useMutationState({ filters: { predicate: isHeld } }).length;
  const out = useMutation({
    mutationFn: () => need(api.DELETE("/api/session")),
    onSuccess: async () => {
      dropDrafts();
      await dropQueue(client).catch(() => {});
      client.clear();
      location.assign("/");
    },
  });
  useKeys([{ show: "/", does: t`find a runner`, on: sign("/", () => go("/?find")) }]);
  const tab = ({ isActive }: { isActive: boolean }) =>
    `flex items-center border-b-[3px] pt-[3px] ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`;
  return (
    <>
      <a href="#main" className="btn absolute -top-20 left-2 z-50 focus:top-2">
        {t`Skip to content`}
      </a>
      <header
        data-shell
        className="flex min-h-14 flex-wrap items-stretch gap-x-6 border-b-2 border-ink px-4 md:px-7"
      >
        <Link to="/" className="flex items-center" aria-label={t`Notchback, to the bench`}>
          <Logo />
        </Link>
        <nav aria-label={t`Main`} className="flex items-stretch gap-5">
          <NavLink to="/" end className={tab}>
            {t`Bench`}
          </NavLink>
          <NavLink to="/review" className={tab}>
            {t`Review`}
          </NavLink>
          <NavLink to="/shelf" className={tab}>
            {t`Shelf`}
          </NavLink>
          <NavLink to="/practice" className={tab}>
            {t`Practice`}
          </NavLink>
        </nav>
        <div className="ml-auto flex items-center gap-1 py-1 text-[14px]">
          <button type="button" className="btn-quiet" onClick={guide.call}>
            {t`Guide`}
          </button>
          <span className="mr-2 hidden text-ink-2 md:inline">
            {me.data?.name} · {me.data?.practice}
          </span>
          <button type="button" className="btn-quiet" onClick={flip}>
            {theme === "dark" ? t`Light` : t`Dark`}
          </button>
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              const left = Math.max(unsent(), waitingIn(client));
              if (left > 0) setWaiting(left);
              else out.mutate();
            }}
          >
            {t`Sign out`}
          </button>
        </div>
      </header>
      {held > 0 && (
        <p role="status" className="border-b border-rule bg-paper px-4 py-2 md:px-7">
          {t`No connection. ${plural(held, { one: "One report waits", other: "# reports wait" })} on this device and ${plural(held, { one: "is", other: "are" })} sent when it is back, also after this page was closed.`}
        </p>
      )}
      {waiting > 0 && (
        <div
          role="alertdialog"
          aria-label={t`Not sent yet`}
          className="flex flex-wrap items-center gap-4 border-b border-clay bg-clay-wash px-4 py-3 md:px-7"
        >
          <p className="mr-auto font-semibold">
            {t`▲ ${plural(waiting, { one: "One form is", other: "# forms are" })} not sent yet. Signing out removes ${plural(waiting, { one: "it", other: "them" })} from this device.`}
          </p>
          <button type="button" className="btn btn-main" ref={stay} onClick={() => setWaiting(0)}>
            {t`Stay`}
          </button>
          <button type="button" className="btn" onClick={() => out.mutate()}>
            {t`Sign out and remove`}
          </button>
        </div>
      )}
      <main id="main" tabIndex={-1} className="mx-auto max-w-[1280px] px-4 py-5 outline-none md:px-7">
        {guide.at >= 0 && (
          <Suspense fallback={null}>
            <GuideStrip guide={guide} />
          </Suspense>
        )}
        <Outlet />
        <ScrollRestoration nonce={nonce} />
      </main>
    </>
  );
}
