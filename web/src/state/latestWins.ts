/** Runs one task at a time; while one runs, only the newest request waits. */
export class LatestWins<Request, Result> {
  private waiting: { request: Request } | null = null;
  private running = false;

  constructor(
    private readonly task: (request: Request) => Promise<Result>,
    private readonly onResult: (result: Result, request: Request) => void,
    private readonly onError: (error: unknown) => void,
  ) {}

  ask(request: Request): void {
    this.waiting = { request };
    if (!this.running) void this.run();
  }

  /** Forget what waits, and ignore what still runs. */
  stop(): void {
    this.waiting = null;
    this.stopped = true;
  }

  private stopped = false;

  private async run(): Promise<void> {
    this.running = true;
    while (this.waiting) {
      const { request } = this.waiting;
      this.waiting = null;
      try {
        const result = await this.task(request);
        if (!this.stopped) this.onResult(result, request);
      } catch (error) {
        if (!this.stopped) this.onError(error);
      }
    }
    this.running = false;
  }
}
