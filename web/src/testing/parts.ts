import type { Parts } from "../api/parts";
import told from "./parts.json";

/** What the server tells of all parts; `make client` writes it. */
export const PARTS = told as unknown as Parts;
