import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { Problem } from "../api/client";
import { client } from "../api/hooks";
import { router } from "./routes";

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
