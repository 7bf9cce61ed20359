/// <reference lib="webworker" />
import { createHandlerBoundToURL, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { openStore, sharedMost } from "./features/pocket/keep";

declare const self: ServiceWorkerGlobalScope & {
  __WB_MANIFEST: (string | { url: string; revision: string | null })[];
};

// The page, its script, styles and fonts lie on the phone; what is told goes by itself.
precacheAndRoute(self.__WB_MANIFEST);
registerRoute(new NavigationRoute(createHandlerBoundToURL("/pocket.html"), { allowlist: [/^\/pocket/] }));
// A file that another application shares is kept here and opened as a run, also without
// a network; what is too large is said there.
registerRoute(
  ({ url }) => url.pathname === "/pocket/share",
  async ({ request }) => {
    const file = (await request.formData()).get("file");
    if (file instanceof File && file.size <= sharedMost) {
      const store = await openStore();
      await store.put("shared", { name: file.name, bytes: await file.arrayBuffer() });
    }
    return Response.redirect("/pocket", 303);
  },
  "POST",
);
// A new edition takes over when the last page is closed: never in a session.
