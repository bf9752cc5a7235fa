/** A stand-in for the server in tests of the page: answers by method and path, and remembers what it was asked. */

type Reply = { status?: number; json?: unknown; bytes?: ArrayBuffer };
type Answer = (body: unknown, path: string) => Reply | Promise<Reply>;

interface Asked {
  what: string;
  body: unknown;
  /** What the page called itself. */
  page: string | null;
}

let answers = new Map<string, Answer>();
export const asked: Asked[] = [];

/** Forget all answers and what was asked. */
export function freshServer(): void {
  answers = new Map();
  asked.length = 0;
}

/** Answer requests such as `POST /api/pieces/p1/plan`: by a function, or always with the same JSON. */
export function on(what: string, answer: Answer | object | null): void {
  answers.set(what, typeof answer === "function" ? (answer as Answer) : () => ({ json: answer }));
}

/** What was asked of one address, oldest first. */
export function askedOf(what: string): unknown[] {
  return asked.filter((each) => each.what === what).map((each) => each.body);
}

/** A promise that is kept by hand, for answers that take their time. */
export function later<T>(): { promise: Promise<T>; give: (value: T) => void } {
  let give: (value: T) => void = () => undefined;
  const promise = new Promise<T>((resolve) => {
    give = resolve;
  });
  return { promise, give };
}

/** Bytes as the server packs arrays: a head in JSON, then the arrays. */
export function framed(head: unknown, arrays: Record<string, { dtype: string; shape: number[]; values: ArrayLike<number> & { buffer: ArrayBufferLike } }> = {}): ArrayBuffer {
  let offset = 0;
  const listings = Object.entries(arrays).map(([name, { dtype, shape, values }]) => {
    const listing = { name, dtype, shape, offset };
    offset += Math.ceil(values.buffer.byteLength / 4) * 4;
    return listing;
  });
  const text = JSON.stringify({ head, arrays: listings });
  const spare = -new TextEncoder().encode(text).length & 3;
  const header = new TextEncoder().encode(text + " ".repeat(spare));
  const bytes = new Uint8Array(8 + header.length + offset);
  bytes.set([0x4e, 0x42, 0x46, 0x31]);
  new DataView(bytes.buffer).setUint32(4, header.length, true);
  bytes.set(header, 8);
  Object.values(arrays).forEach(({ values }, at) => bytes.set(new Uint8Array(values.buffer), 8 + header.length + (listings[at]?.offset ?? 0)));
  return bytes.buffer;
}

async function answer(target: RequestInfo | URL, init?: RequestInit): Promise<Response> {
  const request = target instanceof Request ? target : null;
  const { pathname, search } = new URL(request?.url ?? String(target), "http://page.test");
  const what = `${request?.method ?? init?.method ?? "GET"} ${pathname}${search}`;
  const text = request ? await request.text() : String(init?.body ?? "");
  const body: unknown = text.startsWith("{") || text.startsWith("[") ? JSON.parse(text) : text;
  const page = (request?.headers ?? new Headers(init?.headers)).get("Nebrel-Page");
  asked.push({ what, body, page });
  const found = answers.get(what);
  if (!found) throw new TypeError(`Nothing answers ${what}.`);
  const { status = 200, json, bytes } = await found(body, pathname);
  return new Response(bytes ?? JSON.stringify(json), { status, headers: { "Content-Type": bytes ? "application/octet-stream" : "application/json" } });
}

// The client takes hold of fetch when it is loaded, so this module is imported first.
globalThis.fetch = answer;
