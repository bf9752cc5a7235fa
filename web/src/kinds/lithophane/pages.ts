import type { LithophaneDocument } from "../../api/client";
import { transmissionLookOf } from "../../views/transmission";
import type { PageKind } from "../common/pageKind";
import { lookedAtSource } from "../common/ops/lookedAt";
import { LithophaneBench } from "./LithophaneBench";

export const lithophanePages: PageKind<LithophaneDocument> = {
  Bench: LithophaneBench,
  upto: (document, at) => (at.station === "picture" ? lookedAtSource(document, at) : null),
  sourceApart: true,
  light: transmissionLookOf,
};
