import { t } from "@lingui/core/macro";
import { Link, NavLink } from "react-router";
import { useMe } from "../../api/hooks";
import { usePageTitle } from "../../parts/title";

export function ShelfTabs() {
  const me = useMe();
  const tab = ({ isActive }: { isActive: boolean }) =>
    `border-b-[3px] px-1 py-1 ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`;
  return (
    <nav aria-label={t`Shelf`} className="mb-4 flex flex-wrap gap-x-5 border-b border-rule">
      <NavLink to="/shelf" end className={tab}>
        {t`Ladders`}
      </NavLink>
      <NavLink to="/shelf/exercises" className={tab}>
        {t`Exercises`}
      </NavLink>
      <NavLink to="/shelf/routines" className={tab}>
        {t`Routines`}
      </NavLink>
      <NavLink to="/shelf/schools" className={tab}>
        {t`Schools`}
      </NavLink>
      {me.data?.role === "owner" && (
        <NavLink to="/shelf/figures" className={tab}>
          {t`Drawings`}
        </NavLink>
      )}
    </nav>
  );
}

export function Head({
  title,
  page,
  line,
  to,
  button,
}: {
  title: string;
  page: string;
  line: string;
  to: string;
  button: string;
}) {
  usePageTitle(page, t`Shelf`);
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
      <div className="mr-auto max-w-3xl">
        <h1>{title}</h1>
        <p className="mt-1 text-ink-2">{line}</p>
      </div>
      <Link className="btn btn-main" to={to}>
        {button}
      </Link>
    </div>
  );
}
