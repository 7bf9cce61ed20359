import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Pocket } from "./app";

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <Pocket />
  </StrictMode>,
);
