import "@fontsource-variable/literata/index.css";
import "@fontsource-variable/literata/wght-italic.css";
import "@fontsource-variable/source-sans-3/index.css";
import "./theme.css";
import { setNonce } from "get-nonce";
import { createRoot } from "react-dom/client";
import { App } from "./app";
import { applyScheme } from "./parts/scheme";
import { language } from "./texts";

// Radix writes a style element when it locks scrolling; the content security policy wants it to carry this page's nonce.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="nonce"]')?.content;
if (nonce) setNonce(nonce);
applyScheme();
document.documentElement.lang = language;
createRoot(document.getElementById("root")!).render(<App />);
// Beside the page, so that it opens also while the server is away; where a browser does not allow it, all else works.
if (import.meta.env.PROD) navigator.serviceWorker?.register("/worker.js").catch(() => undefined);
