/** News of the server, as they are passed on: an event with its data in JSON, or whether the server answers. */
export type Told = { event: string; data: string } | { open: boolean };

/** The events that the server sends. */
export const EVENTS = ["job", "piece", "preview"];

/** Listen to the server's events; gives what ends that. */
export function listen(tell: (told: Told) => void): () => void {
  const source = new EventSource("/api/events");
  source.onopen = () => tell({ open: true });
  source.onerror = () => tell({ open: false });
  for (const event of EVENTS) source.addEventListener(event, (news) => tell({ event, data: (news as MessageEvent<string>).data }));
  return () => source.close();
}

/**
 * Listen by one stream for all pages of this browser: it gives a server few connections, and each page of its own would
 * take one. Where pages cannot share, this one listens by itself.
 */
export function listenTogether(tell: (told: Told) => void): () => void {
  if (typeof SharedWorker === "undefined") return listen(tell);
  let leave = () => {};
  const enter = () => {
    const shared = new SharedWorker(new URL("./news.worker.ts", import.meta.url), { type: "module", name: "news" });
    const { port } = shared;
    shared.onerror = () => {
      leave();
      leave = listen(tell);
    };
    port.onmessage = ({ data }: MessageEvent<Told>) => tell(data);
    leave = () => {
      port.postMessage("leave");
      port.close();
      leave = () => {};
    };
  };
  const hidden = () => leave();
  // A page that the browser kept aside comes back as it was.
  const shown = ({ persisted }: PageTransitionEvent) => {
    if (persisted) enter();
  };
  window.addEventListener("pagehide", hidden);
  window.addEventListener("pageshow", shown);
  enter();
  return () => {
    window.removeEventListener("pagehide", hidden);
    window.removeEventListener("pageshow", shown);
    leave();
  };
}
