import { useEffect } from "react";

/** The page's name in the window's title, the most particular first. */
export function usePageTitle(...parts: (string | undefined)[]) {
  const title = [...parts.filter(Boolean), "Notchback"].join(" · ");
  useEffect(() => {
    document.title = title;
    return () => {
      document.title = "Notchback";
    };
  }, [title]);
}
