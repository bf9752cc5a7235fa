import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type PieceCard = components["schemas"]["PieceCard"];
/** What the data folder holds. */
export type Storage = components["schemas"]["StorageView"];
/** Something that went wrong. */
export type Problem = components["schemas"]["ProblemView"];
export type PieceView = components["schemas"]["PieceView"];
/** The recipe of a relief panel. */
export type PanelDocument = components["schemas"]["PanelDocument"];
/** The recipe of a piece that starts from a mesh of elsewhere. */
export type ModelDocument = components["schemas"]["ModelDocument"];
/** A document whose mesh is worked on by steps, and decorated. */
export type WorkedDocument = ModelDocument | FigureDocument | AssemblyDocument | MouldDocument;
/** The recipe of a mould of another piece. */
export type MouldDocument = components["schemas"]["MouldDocument"];
/** The recipe of a piece that is put together of parts. */
export type AssemblyDocument = components["schemas"]["AssemblyDocument"];
/** The recipe of a piece that is made of the outlines of a picture. */
export type TracedDocument = components["schemas"]["TracedDocument"];
/** The recipe of a piece that is made of the outlines of a drawing. */
export type DrawnDocument = components["schemas"]["DrawnDocument"];
/** The recipe of a lithophane. */
export type LithophaneDocument = components["schemas"]["LithophaneDocument"];
/** The recipe of a figure in the round. */
export type FigureDocument = components["schemas"]["FigureDocument"];
export type FigureStroke = FigureDocument["figure"]["strokes"][number];
export type LaidRelief = PanelDocument["height"]["laid"][number];
export type HeightStroke = PanelDocument["height"]["hand"]["strokes"][number];
export type TranslucentMaterial = components["schemas"]["TranslucentMaterialPart"];
export type Material = components["schemas"]["MaterialView"];
export type MaterialEdit = components["schemas"]["MaterialEdit"];
export type Readings = components["schemas"]["Readings"];
export type MaterialFit = components["schemas"]["FitView"];
export type LitFacts = components["schemas"]["LitFacts"];
/** One that starts from a picture. */
export type PicturedDocument = PanelDocument | LithophaneDocument | FigureDocument | TracedDocument;
export type OutlineDocument = TracedDocument | DrawnDocument;
export type OutlineSolid = OutlineDocument["solid"];
export type MendStep = OutlineDocument["mend"][number];
export type OutlinesView = components["schemas"]["OutlinesView"];
export type AnyDocument = PieceView["document"];
export type ModelStep = ModelDocument["steps"][number];
export type StepOutcome = components["schemas"]["StepOutcome"];
export type Part = components["schemas"]["PartView"];
export type Version = components["schemas"]["VersionView"];
export type ComparedDepth = components["schemas"]["ComparedDepthFacts"];
export type ServiceTerms = components["schemas"]["ServiceTermsView"];
export type UnsureFacts = components["schemas"]["UnsureFacts"];
export type ModelFile = components["schemas"]["ModelView"];
export type TakenModel = components["schemas"]["TakenModel"];
export type FewColoursFacts = components["schemas"]["FewColoursFacts"];
export type Filament = components["schemas"]["FilamentView"];
export type RackBit = components["schemas"]["RackBitView"];
export type RouterBit = components["schemas"]["BitPart"];
export type KeptPost = components["schemas"]["KeptPostView"];
export type RouterPost = components["schemas"]["PostPart"];
export type ReachFix = components["schemas"]["ReachFixView"];
export type RouterStatus = components["schemas"]["RouterStatus"];
export type RouterWord = "hold" | "resume" | "stop";
export type CarvingView = components["schemas"]["CarvingView"];
export type CarvingResult = components["schemas"]["CarvingResult"];
export type CarvedSection = components["schemas"]["CarvedSection"];
export type ReachView = components["schemas"]["ReachView"];
export type FilamentEdit = components["schemas"]["FilamentEdit"];
export type ChoiceTile = components["schemas"]["TileView"];
export type Recipe = components["schemas"]["RecipeView"];
export type NewSheet = components["schemas"]["NewSheet"];
export type LightTarget = components["schemas"]["LightTargetView"];
export type LightTargetEdit = components["schemas"]["LightTargetEdit"];
export type Finding = components["schemas"]["FindingReport"];
export type JobView = components["schemas"]["JobView"];
export type BuildReport = components["schemas"]["BuildReport"];
export type SectionCut = components["schemas"]["SectionView"];
/** What is known of the layers that a piece is printed in. */
export type LayersView = components["schemas"]["LayersView"];
export type LayerFix = components["schemas"]["LayerFixView"];
/** A way to lay a piece on the plate. */
export type LaidWay = components["schemas"]["WayView"];
export type TurnWeights = components["schemas"]["Weights"];
export type Printing = PanelDocument["printing"];
export type ColourBands = Printing["bands"];

/** What this page calls itself, so that the server shares itself out fairly among pages. */
export const PAGE = { "Nebrel-Page": crypto.getRandomValues(new Uint32Array(2)).join("-") };

export const api = createClient<paths>({ baseUrl: "/", headers: PAGE });

/** A refusal by the server, with the sentence that it gave. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** When the unit of a model must be told: the size that each would give, in mm. */
    readonly sizes: Record<string, [number, number, number]> | null = null,
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
  throw new Refused(sentenceIn(answer.error), answer.response.status, sizesIn(answer.error));
}

/** What only some kinds of piece can do. */
export type Ability = PieceView["abilities"][number];

export function can(piece: PieceView, ability: Ability): boolean {
  return piece.abilities.includes(ability);
}

function sizesIn(body: unknown): Record<string, [number, number, number]> | null {
  if (typeof body !== "object" || body === null || !("sizes_mm" in body)) return null;
  return body.sizes_mm as Record<string, [number, number, number]> | null;
}

export function sentenceIn(body: unknown): string {
  if (typeof body === "object" && body !== null && "message" in body && typeof body.message === "string") {
    return body.message;
  }
  return "Nebrel made a mistake here; your piece is unharmed.";
}
