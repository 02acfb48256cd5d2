import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { Opening } from "./Opening";
import "./styles/app.css";

const client = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 2 } } });

// A station that is opened after Halvex was updated is of a version that is gone: the page starts anew. All edits are stored.
window.addEventListener("vite:preloadError", () => location.reload());

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Opening>
        <Suspense>
          <App />
        </Suspense>
      </Opening>
    </QueryClientProvider>
  </StrictMode>,
);
