import type { FigureDocument } from "../../api/client";
import type { PageKind } from "../common/pageKind";
import { lookedAtSource } from "../common/ops/lookedAt";
import { FigureBench } from "./FigureBench";

export const figurePages: PageKind<FigureDocument> = {
  Bench: FigureBench,
  upto: (document, at) => (at.station === "picture" ? lookedAtSource(document, at) : null),
  sourceApart: true,
};
