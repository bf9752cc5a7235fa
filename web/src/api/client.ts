import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type PieceCard = components["schemas"]["PieceCard"];
export type PieceView = components["schemas"]["PieceView"];
export type PieceDocument = components["schemas"]["PieceDocument"];
export type Finding = components["schemas"]["FindingReport"];
export type JobView = components["schemas"]["JobView"];
export type BuildReport = components["schemas"]["BuildReport"];
export type SectionCut = components["schemas"]["SectionView"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A refusal by the server, with the sentence that it gave. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export const NO_ANSWER = "Nebrel's server does not answer. What was kept is safe; it goes on as soon as the server is back.";

interface Answer {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/** The data of an answer, named by its schema because the client widens tuples to arrays; or its refusal as an error. */
export async function answered<T>(pending: Promise<Answer>): Promise<T> {
  let answer: Answer;
  try {
    answer = await pending;
  } catch {
    throw new Refused(NO_ANSWER, 0);
  }
  if (answer.response.ok && answer.data !== undefined) return answer.data as T;
  throw new Refused(sentenceIn(answer.error), answer.response.status);
}

export function sentenceIn(body: unknown): string {
  if (typeof body === "object" && body !== null && "message" in body && typeof body.message === "string") {
    return body.message;
  }
  return "Nebrel made a mistake here; your piece is unharmed.";
}
