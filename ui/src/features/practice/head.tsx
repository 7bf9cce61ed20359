import { t } from "@lingui/core/macro";
import { NavLink } from "react-router";
import { useMe } from "../../api/hooks";

/** The places of the practice. */
export function PracticeHead() {
  const me = useMe();
  const owner = me.data?.role === "owner";
  const tab = ({ isActive }: { isActive: boolean }) =>
    `flex min-h-10 items-center border-b-[3px] pt-[3px] ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`;
  return (
    <nav
      aria-label={t`Places of the practice`}
      className="mb-5 flex flex-wrap gap-x-5 border-b-2 border-ink print:hidden"
    >
      <NavLink to="/practice" end className={tab}>{t`Settings`}</NavLink>
      <NavLink to="/practice/questions" className={tab}>{t`Safety questions`}</NavLink>
      <NavLink to="/practice/people" className={tab}>{t`People`}</NavLink>
      <NavLink to="/practice/archive" className={tab}>{t`Off the bench`}</NavLink>
      {owner && <NavLink to="/practice/access" className={tab}>{t`Who looked`}</NavLink>}
      <NavLink to="/practice/me" className={tab}>{t`My page`}</NavLink>
    </nav>
  );
}
