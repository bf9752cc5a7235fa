import type { DrawnDocument, TracedDocument } from "../../api/client";
import { preparedId } from "../../api/ops";
import type { PageKind } from "../common/pageKind";
import { lookedAtSource } from "../common/ops/lookedAt";
import { OutlineBench } from "./OutlineBench";

export const tracedPages: PageKind<TracedDocument> = {
  Bench: OutlineBench,
  upto: (document, at) => {
    if (at.station === "picture") return lookedAtSource(document, at);
    return at.station === "outlines" ? preparedId(document) : null;
  },
  sourceApart: true,
};

export const drawnPages: PageKind<DrawnDocument> = {
  Bench: OutlineBench,
  upto: (_document, { station }) => (station === "outlines" ? "" : null),
  sourceApart: true,
};
