import "./index.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Pocket } from "./features/pocket/app";

if ("serviceWorker" in navigator && import.meta.env.PROD)
  void navigator.serviceWorker.register("/pocket-worker.js", { scope: "/pocket" }).catch(() => {});

const dark = matchMedia("(prefers-color-scheme: dark)");
const theme = () => {
  document.documentElement.dataset.theme = dark.matches ? "dark" : "light";
};
theme();
dark.addEventListener("change", theme);

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <Pocket />
  </StrictMode>,
);
