import type { ModelDocument } from "../../api/client";
import type { PageKind } from "../common/pageKind";
import { ModelBench } from "./ModelBench";

export const modelPages: PageKind<ModelDocument> = { Bench: ModelBench, upto: () => null, sourceApart: false };
