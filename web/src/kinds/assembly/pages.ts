import type { AssemblyDocument } from "../../api/client";
import type { PageKind } from "../common/pageKind";
import { AssemblyBench } from "./AssemblyBench";

export const assemblyPages: PageKind<AssemblyDocument> = { Bench: AssemblyBench, upto: () => null, sourceApart: false };
