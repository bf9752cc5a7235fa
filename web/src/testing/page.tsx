import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { create } from "zustand";
import { PreviewsProvider, type Shown } from "../state/previews";

/** What the bench shows round the part that is tested: set it by `useShowing.setState`. */
export const useShowing = create<Partial<Shown>>()(() => ({}));

/** What the application puts round every part of a page. */
export function onPage(client = freshClient()) {
  return function Page({ children }: { children: ReactNode }) {
    return (
      <QueryClientProvider client={client}>
        <MemoryRouter>
          <PreviewsProvider shown={useShowing()}>{children}</PreviewsProvider>
        </MemoryRouter>
      </QueryClientProvider>
    );
  };
}

export function freshClient(): QueryClient {
  return new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
}
