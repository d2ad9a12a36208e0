import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { queryClient } from "./api/queries";
import { keepPage } from "./app/offline";
import { router } from "./app/routes";
import "./index.css";

const root = document.getElementById("root");
if (!root) throw new Error("no #root in the page");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
keepPage();
// a page of an earlier version asks for a script that the new one does not have any more
window.addEventListener("vite:preloadError", () => window.location.reload());
