import type { PanelDocument } from "../../api/client";
import { opsOf } from "../../api/ops";
import type { PageKind } from "../common/pageKind";
import { lookedAt } from "../common/ops/lookedAt";
import { PanelBench } from "./PanelBench";

export const panelPages: PageKind<PanelDocument> = {
  Bench: PanelBench,
  upto: (document, { station, opId, look }) => (station === "picture" ? lookedAt(opsOf(document), opId, look) : null),
  sourceApart: false,
};
