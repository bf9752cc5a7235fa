import type { OpKind } from "../api/ops";
import type { Parts } from "../api/parts";
import ops from "./ops.json";
import told from "./parts.json";

/** What the server tells of all parts; `make client` writes it. */
export const PARTS = told as unknown as Parts;

/** What it tells of all picture ops. */
export const OPS = Object.values(ops.kinds) as unknown as OpKind[];
