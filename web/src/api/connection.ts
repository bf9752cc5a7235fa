import { create } from "zustand";

/** Whether the server answers, as the stream of its events tells. */
export const useConnection = create<{ connected: boolean }>()(() => ({ connected: true }));
