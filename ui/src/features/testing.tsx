import { QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";
import { client } from "../api/hooks";
import { KeysProvider } from "../parts/keys";

/** What a stand-in for the server was asked, and what it answers by "METHOD /path". */
export const server = {
  asked: [] as { what: string; body: unknown; search: string; key: string | null }[],
  answers: {} as Record<string, unknown>,
};

/** Answers of the stand-in; the client takes fetch as it is when it is made. */
export async function standIn(input: RequestInfo | URL): Promise<Response> {
  const r = input as Request;
  const url = new URL(r.url);
  const what = `${r.method} ${url.pathname}`;
  const text = await r.text();
  server.asked.push({
    what,
    body: text ? JSON.parse(text) : undefined,
    search: url.search,
    key: r.headers.get("Idempotency-Key"),
  });
  const a = server.answers[what];
  const given = typeof a === "function" ? a(url) : a;
  const { status = 200, ...body } = (given ?? { status: 404, detail: "nothing here" }) as { status?: number };
  return new Response(JSON.stringify(status === 200 ? (given ?? {}) : body), {
    status,
    headers: { "Content-Type": "application/json" },
  });
}

function Where() {
  const at = useLocation();
  return <output aria-label="address">{at.pathname + at.search + at.hash}</output>;
}

/** Shows a view at an address, with the app around it. */
export function show(view: ReactNode, at = "/", path = "/") {
  client.clear();
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>
        <KeysProvider>
          <Where />
          <Routes>
            <Route path={path} element={view} />
            <Route path="*" element={<p>elsewhere</p>} />
          </Routes>
        </KeysProvider>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}
