import { whenIdle } from "./idle";
import { set } from "./store";

/** The worker that opens the app without a connection (see offline/service-worker.ts), and newer versions of it. */

/** Keeping the pages waits until what the person came for is there. */
const AFTER_MS = 3000;

let newer: ServiceWorker | null = null;

function offer(worker: ServiceWorker): void {
  newer = worker;
  set({ newerVersion: true });
}

async function register(): Promise<void> {
  const registration = await navigator.serviceWorker.register("/service-worker.js", { updateViaCache: "none" });
  if (registration.waiting && navigator.serviceWorker.controller) offer(registration.waiting);
  registration.addEventListener("updatefound", () => {
    const { installing } = registration;
    installing?.addEventListener("statechange", () => {
      // The first of all is no newer one.
      if (installing.state === "installed" && navigator.serviceWorker.controller) offer(installing);
    });
  });
  // A window that stays open for days hears of a newer version when it is looked at again.
  document.addEventListener("visibilitychange", () => {
    if (document.visibilityState === "visible") void registration.update().catch(() => undefined);
  });
}

/** Keeps the pages of the app in the browser, where it can. */
export function keepPages(): void {
  // Only pages of this machine or over TLS may.
  if (!("serviceWorker" in navigator)) return;
  setTimeout(() => whenIdle(() => void register().catch(() => undefined)), AFTER_MS);
}

/** The person wants the newer version: the window is loaded anew with it. What is decided is kept. */
export function takeNewer(): void {
  navigator.serviceWorker.addEventListener("controllerchange", () => location.reload());
  newer?.postMessage("take over");
}
