import "./index.css";
import { kept, speak } from "./language";

if ("serviceWorker" in navigator && import.meta.env.PROD)
  void navigator.serviceWorker.register("/pocket-worker.js", { scope: "/pocket" }).catch(() => {});

const dark = matchMedia("(prefers-color-scheme: dark)");
const theme = () => {
  document.documentElement.dataset.theme = dark.matches ? "dark" : "light";
};
theme();
dark.addEventListener("change", theme);

// Texts are looked up as the code is read: the language comes first.
void speak(kept()).then(() => import("./features/pocket/start"));
