import type { Plugin } from "vite";

export function notices(folder?: string): string;
export function withNotices(): Plugin;
