import "./index.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode, startTransition } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { queries } from "./api/queries";
import { Announcements } from "./ui/announce";
import { Boundary } from "./ui/Boundary";

// Parts of the dialogs write a style element; the page's policy lets it pass with this nonce.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content;
if (nonce) setNonce(nonce);

const root = document.getElementById("root");
if (root) {
  const page = (
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Announcements>
            <Boundary where="frame">
              <App />
            </Boundary>
          </Announcements>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>
  );
  // In slices: a slow phone answers a finger in between.
  startTransition(() => createRoot(root).render(page));
}

// Fonts come when the page can be read already: no text waits for one, and none is in the way of
// what is read.
const loadLater = () =>
  window.setTimeout(async () => {
    await import("./fonts");
    (await import("./ui/keepFocus")).keepFocus();
  }, 0);
if (document.readyState === "complete") loadLater();
else window.addEventListener("load", loadLater, { once: true });
