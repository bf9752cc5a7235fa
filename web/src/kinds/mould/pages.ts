import type { MouldDocument } from "../../api/client";
import type { PageKind } from "../common/pageKind";
import { MouldBench } from "./MouldBench";

export const mouldPages: PageKind<MouldDocument> = { Bench: MouldBench, upto: () => null, sourceApart: false };
