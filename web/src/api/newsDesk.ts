import type { Told } from "./news";

/** What a page is reached by. */
export interface Listener {
  postMessage: (told: Told) => void;
}

/** Passes news on to every page that listens; a page that comes later is told at once whether the server answers. */
export class NewsDesk {
  private readonly listeners = new Set<Listener>();
  private stop: (() => void) | undefined;
  private open: boolean | undefined;

  constructor(private readonly listen: (tell: (told: Told) => void) => () => void) {}

  /** Take a page in; the first one makes the stream begin. */
  enter(listener: Listener): void {
    this.listeners.add(listener);
    if (this.open !== undefined) listener.postMessage({ open: this.open });
    this.stop ??= this.listen((told) => this.pass(told));
  }

  /** Let a page go; with the last one the stream ends. */
  leave(listener: Listener): void {
    this.listeners.delete(listener);
    if (this.listeners.size > 0) return;
    this.stop?.();
    this.stop = this.open = undefined;
  }

  private pass(told: Told): void {
    if ("open" in told) this.open = told.open;
    for (const listener of this.listeners) listener.postMessage(told);
  }
}
