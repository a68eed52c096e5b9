import "@fontsource-variable/hanken-grotesk/wght.css";
import "@fontsource-variable/newsreader/wght.css";
import "@fontsource/commit-mono/latin-400.css";
import "@fontsource/commit-mono/latin-700.css";
import "./index.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
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
  createRoot(root).render(
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
    </StrictMode>,
  );
}
